/** The terms of an SPF record, cut apart (RFC 7208 §4.6.1). What they mean is not looked at here. */

export interface SpfTerm {
  /** As it is written. */
  text: string
  /** `+` where none is stated; empty for a modifier. */
  qualifier: '+' | '-' | '~' | '?' | ''
  /** Of a mechanism or a modifier, in lower case. */
  name: string
  /** Behind `:` or `=`, prefix lengths left away; empty where there is none. */
  value: string
  /** `/24`, `//64` or both; empty where there is none. */
  prefix: string
}

/** The terms behind `v=spf1`, in order. */
export function spfTerms(text: string): SpfTerm[] {
  return text
    .split(/ +/)
    .slice(1)
    .filter((term) => term !== '')
    .map((term) => {
      const modifier = /^([a-z][a-z0-9._-]*)=(.*)$/i.exec(term)
      if (modifier) return { text: term, qualifier: '', name: modifier[1].toLowerCase(), value: modifier[2], prefix: '' }
      const [, sign, name, value, prefix] = /^([-+~?]?)([^:/]*):?(.*?)((?:\/\d+)?(?:\/\/\d+)?)$/.exec(term)!
      return { text: term, qualifier: (sign || '+') as SpfTerm['qualifier'], name: name.toLowerCase(), value, prefix }
    })
}

/** Whether some host may send by this record: it has anything but refusals. */
export const letsSend = (text: string): boolean => spfTerms(text).some(({ qualifier, name }) => (qualifier !== '-' && qualifier !== '') || name === 'redirect')

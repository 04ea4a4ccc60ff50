/**
 * Signs that a terminal, a page or an editor would obey, or leave out, instead of showing them: controls, formats (among them those that turn the writing
 * direction and the tags), separators of lines, and whatever Unicode lets programs ignore. Newlines are none of them.
 */
const OBEYED = /(?!\n)[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Default_Ignorable_Code_Point}]/gu

/** Most texts have none. */
const PLAIN = /^[\n -~]*$/

/** Text from outside made safe for a terminal: such signs are shown, not obeyed. */
export const printable = (text: string): string => (PLAIN.test(text) ? text : text.replace(OBEYED, shown))

/** A value as JSON (RFC 8259) in which every such sign is escaped. */
export function jsonText(value: unknown, indent?: number): string {
  return JSON.stringify(value, null, indent).replace(OBEYED, (sign) =>
    Array.from({ length: sign.length }, (_, i) => `\\u${sign.charCodeAt(i).toString(16).padStart(4, '0')}`).join(''),
  )
}

/** What the program itself may tell a terminal: colors, where to write, what to clear. */
const OUR_OWN = String.raw`\u001b\[(?:\d+(?:;\d+)*m|\?(?:1049|25)[hl]|[HJK])`
const WITH_OURS = new RegExp(`${OUR_OWN}|${OBEYED.source}`, 'gu')

/** The same for a whole output, which may hold columns, and, if it says so, what the program tells a terminal. */
export const printableOutput = (text: string, withOurs: boolean): string =>
  text.replace(withOurs ? WITH_OURS : OBEYED, (found) =>
    found === '\t' || found.startsWith('\u001b[') ? found : shown(found),
  )

function shown(sign: string): string {
  return sign === '\t' ? '    ' : `\\u{${sign.codePointAt(0)!.toString(16)}}`
}

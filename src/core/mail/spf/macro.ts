/** Macros in the names and texts of SPF records (RFC 7208 §7). */
import { addressText } from '../../names/address.ts'
import { octetsOf } from '../../names/octets.ts'
import { shortened, type TextProblem } from '../tags.ts'

export interface Macro {
  /** In lower case: s, l, o, d, i, p, h, v; in explanations c, r, t as well. */
  letter: string
  /** How many parts are kept, counted from the right; 0 for all. */
  keep: number
  reversed: boolean
  /** What parts it; `.` where none is stated. */
  delimiters: string
  /** Written in upper case: what it becomes is escaped as in a URL. */
  escaped: boolean
}

/** Plain stretches and macros, in order. */
export type MacroText = readonly (string | Macro)[]

const EXPANSION = /^%\{([a-z])(\d*)(r?)([-.+,/_=]*)\}/i
const PLAIN: Record<string, string> = { '%%': '%', '%_': ' ', '%-': '%20' }

/** Whether a name has two labels or more, and the last is a top label: not digits alone (RFC 7208 §7.1). */
function endsInTopLabel(text: string): boolean {
  const name = text.endsWith('.') ? text.slice(0, -1) : text
  const top = name.slice(name.lastIndexOf('.') + 1)
  return (
    top.length < name.length &&
    (/^[a-z0-9]+$/i.test(top) ? /[a-z]/i.test(top) : /^[a-z0-9]+-[a-z0-9-]*[a-z0-9]$/i.test(top))
  )
}

/**
 * Reads a text with macros; `at` is where it stands in the record. A `domain` must end in a top label or in a macro, and may not have spaces; an `explanation` may
 * have spaces and the letters c, r and t.
 */
export function parseMacros(
  text: string,
  at: number,
  as: 'domain' | 'value' | 'explanation',
): { parts: MacroText; problem?: TextProblem } {
  const parts: (string | Macro)[] = []
  const fail = (start: number, end: number, message: string, wanted: string) => ({
    parts: [],
    problem: { kind: 'syntax', start: at + start, end: at + Math.max(end, start + 1), message, wanted },
  })
  let plain = ''
  let endsInMacro = false
  for (let i = 0; i < text.length; ) {
    const sign = text[i]!
    endsInMacro = sign === '%'
    if (sign !== '%') {
      if (sign < '!' || sign > '~') {
        if (!(as === 'explanation' && sign === ' '))
          return fail(
            i,
            i + 1,
            'a non-ASCII character or a space where none is allowed',
            'ASCII letters, digits and punctuation',
          )
      }
      plain += sign
      i++
      continue
    }
    const two = text.slice(i, i + 2)
    if (PLAIN[two] !== undefined) {
      plain += PLAIN[two]
      i += 2
      continue
    }
    const match = EXPANSION.exec(text.slice(i, i + 160))
    if (!match) {
      const close = text.indexOf('}', i)
      return fail(
        i,
        close < 0 ? i + 2 : close + 1,
        `“${shortened(text.slice(i, close < 0 ? i + 2 : close + 1))}” is not a macro`,
        'a macro as in %{i}, or %% for a %',
      )
    }
    const letter = match[1]!.toLowerCase()
    const allowed = as === 'explanation' ? 'slodiphvcrt' : 'slodiphv'
    if (!allowed.includes(letter))
      return fail(
        i,
        i + match[0].length,
        'crt'.includes(letter)
          ? `%{${letter}} is allowed in the text of an explanation only`
          : `there is no macro %{${match[1]}}`,
        `one of the letters ${[...allowed].join(', ')}`,
      )
    const keep = match[2] === '' ? 0 : Number(match[2])
    if (match[2] !== '' && keep === 0)
      return fail(i, i + match[0].length, `${match[0]} keeps no part of the name`, 'a number from 1 on, or none')
    if (plain !== '') parts.push(plain)
    plain = ''
    parts.push({
      letter,
      keep: Math.min(keep, 1000),
      reversed: match[3] !== '',
      delimiters: match[4] || '.',
      escaped: match[1] !== letter,
    })
    i += match[0].length
  }
  if (plain !== '') parts.push(plain)
  if (as === 'domain') {
    if (text === '') return fail(0, 1, 'there is no name', 'a domain name')
    if (!endsInMacro && !endsInTopLabel(text))
      return fail(
        0,
        text.length,
        `“${shortened(text)}” is not a domain name`,
        'a name of two labels or more, as in _spf.DOMAIN',
      )
  }
  return { parts }
}

/** What macros become; `p` is asked for beforehand, where it is there. */
export interface MacroValues {
  sender: string
  domain: string
  ip: Uint8Array
  helo: string
  /** Only for %{p}: the validated name of the address, or “unknown”. */
  validated?: string
  /** Only in explanations: who judges (`unknown` where nothing says it), and the time in seconds since 1970. */
  receiver?: string
  time?: number
}

/** A name is cut from the left to so many characters (RFC 7208 §7.3). */
const MAX_DOMAIN = 253
/** Beyond, the left is forgotten: nothing that anybody uses is so long. */
const MAX_EXPANDED = 8192

/** The text with its macros expanded. A `domain` that is too long loses labels from its left. */
export function expandMacros(parts: MacroText, values: MacroValues, as: 'domain' | 'explanation'): string {
  let text = ''
  for (const part of parts) {
    text += typeof part === 'string' ? part : expanded(part, values)
    if (text.length > 2 * MAX_EXPANDED) text = text.slice(-MAX_EXPANDED)
  }
  if (as === 'explanation') return text.slice(0, MAX_EXPANDED)
  while (text.length > MAX_DOMAIN) {
    const dot = text.indexOf('.', text.length - MAX_DOMAIN - 1)
    text = dot < 0 ? text.slice(-MAX_DOMAIN) : text.slice(dot + 1)
  }
  return text
}

function expanded({ letter, keep, reversed, delimiters, escaped: inUpperCase }: Macro, values: MacroValues): string {
  let text = macroValue(letter, values)
  if (keep > 0 || reversed || delimiters !== '.') {
    let parts = text.split(new RegExp(`[${delimiters.replace(/[-\]\\^]/g, '\\$&')}]`))
    if (reversed) parts.reverse()
    if (keep > 0) parts = parts.slice(-keep)
    text = parts.join('.')
  }
  return inUpperCase ? inUrl(text) : text
}

/** Escaped as in a URL: all but the signs that RFC 3986 §2.3 leaves unreserved. */
const inUrl = (text: string): string =>
  [...octetsOf(text)]
    .map((octet) =>
      /[\w.~-]/.test(String.fromCharCode(octet)) && octet < 0x80
        ? String.fromCharCode(octet)
        : `%${octet.toString(16).toUpperCase().padStart(2, '0')}`,
    )
    .join('')

const at = (sender: string): number => sender.lastIndexOf('@')

function macroValue(letter: string, { sender, domain, ip, helo, validated, receiver, time }: MacroValues): string {
  switch (letter) {
    case 's':
      return sender
    case 'l':
      return sender.slice(0, at(sender))
    case 'o':
      return sender.slice(at(sender) + 1)
    case 'd':
      return domain
    case 'i':
      return dotted(ip)
    case 'p':
      return validated ?? 'unknown'
    case 'v':
      return ip.length === 4 ? 'in-addr' : 'ip6'
    case 'h':
      return helo
    case 'c':
      return addressText(ip)
    case 'r':
      return receiver ?? 'unknown'
    default:
      return String(time ?? 0)
  }
}

/** An address as %{i} has it: IPv6 by nibbles. */
const dotted = (ip: Uint8Array): string =>
  ip.length === 4
    ? ip.join('.')
    : [...ip].map((octet) => `${(octet >> 4).toString(16)}.${(octet & 15).toString(16)}`).join('.')

/** Whether a text needs the validated name of the address, which costs questions. */
export const needsValidated = (parts: MacroText): boolean =>
  parts.some((part) => typeof part !== 'string' && part.letter === 'p')
/** Whether a part is the same for every sender of the domain: plain, or made of the domain itself or the sender's. */
const isFixedPart = (part: string | Macro): boolean =>
  typeof part === 'string' || part.letter === 'd' || part.letter === 'o'

/** Whether what a text becomes is the same for every sender of the domain. */
export const isFixed = (parts: MacroText): boolean => parts.every(isFixedPart)

/** What a name with macros ends in for every sender of `domain`: whole labels, none where it ends in something else for each. */
export function fixedEnd(parts: MacroText, domain: string): string {
  const variable = parts.findLastIndex((part) => !isFixedPart(part))
  const end = expandMacros(parts.slice(variable + 1), senderOf(domain, domain), 'domain')
  // Behind a macro, the first label goes on from what that becomes.
  return variable < 0 ? end : end.includes('.') ? end.slice(end.indexOf('.') + 1) : ''
}

/** The values that are the same for every sender of a domain, at the record of a name. */
export const senderOf = (sender: string, domain: string): MacroValues => ({
  sender: `postmaster@${sender}`,
  domain,
  ip: new Uint8Array(4),
  helo: '',
})

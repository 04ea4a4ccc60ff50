/**
 * Internationalised names by IDNA 2008: which are allowed (RFC 5892, RFC 5893), and their way to A-labels and back (RFC 5891, RFC 3492).
 * The properties come from the Unicode tables that the JavaScript engine has; those that it lacks (Bidi_Class, Joining_Type) are generated.
 */
/// <reference path="./untyped.d.ts" />
import punycode from 'punycode.js'
import { BIDI, JOINING } from './unicode-data.ts'

/** RFC 5892 §2.6. */
const EXCEPTIONS = new Map<number, 'valid' | 'context' | 'disallowed'>()
const except = (status: 'valid' | 'context' | 'disallowed', ...points: (number | [number, number])[]): void => {
  for (const point of points) {
    const [from, to] = typeof point === 'number' ? [point, point] : point
    for (let each = from; each <= to; each++) EXCEPTIONS.set(each, status)
  }
}
except('valid', 0xdf, 0x3c2, 0x6fd, 0x6fe, 0xf0b, 0x3007)
except('context', 0xb7, 0x375, 0x5f3, 0x5f4, 0x30fb, [0x660, 0x669], [0x6f0, 0x6f9])
except('disallowed', 0x640, 0x7fa, 0x302e, 0x302f, [0x3031, 0x3035], 0x303b)

/** Full case folding, by way of capital letters; Cherokee folds to capitals, and the dotless i to itself. */
function foldCase(text: string): string {
  return [...text]
    .map((sign) =>
      /[\u13a0-\u13f5\u0131]/u.test(sign)
        ? sign
        : /[\u13f8-\u13fd\uab70-\uabbf]/u.test(sign)
          ? sign.toUpperCase()
          : sign.toUpperCase().toLowerCase(),
    )
    .join('')
}

/** The derived property of a code point (RFC 5892 §3). */
export function idnaStatus(point: number): 'valid' | 'context' | 'disallowed' | 'unassigned' {
  const exception = EXCEPTIONS.get(point)
  if (exception) return exception
  const sign = String.fromCodePoint(point)
  if (/\p{Cn}/u.test(sign) && !/\p{Noncharacter_Code_Point}/u.test(sign)) return 'unassigned'
  if (/[a-z0-9-]/.test(sign)) return 'valid'
  if (point === 0x200c || point === 0x200d) return 'context'
  const oldHangul =
    (point >= 0x1100 && point <= 0x11ff) || (point >= 0xa960 && point <= 0xa97c) || (point >= 0xd7b0 && point <= 0xd7fb)
  const stable = sign === foldCase(sign.normalize('NFKC')).normalize('NFKC')
  const ignorable =
    /[\p{Default_Ignorable_Code_Point}\p{White_Space}\p{Noncharacter_Code_Point}]/u.test(sign) ||
    (point >= 0x20d0 && point <= 0x20ff) ||
    (point >= 0x1d100 && point <= 0x1d24f)
  return !oldHangul && stable && !ignorable && /[\p{Ll}\p{Lu}\p{Lo}\p{Nd}\p{Lm}\p{Mn}\p{Mc}]/u.test(sign)
    ? 'valid'
    : 'disallowed'
}

/** Whether a sign is a virama: Canonical_Combining_Class 9, which ordering puts behind class 8 and before class 10. */
const isVirama = (sign: string): boolean => sign !== '' && sortsBefore('\u3099', sign) && sortsBefore(sign, '\u05b0')
const sortsBefore = (one: string, other: string): boolean =>
  one !== other && `${other}${one}`.normalize('NFD') === `${one}${other}`

/** Letters that join across a place, seen through transparent signs (RFC 5892 appendix A.1). */
const JOINED = new RegExp(
  `[${JOINING.L}${JOINING.D}][${JOINING.T}]*\\u200c[${JOINING.T}]*[${JOINING.R}${JOINING.D}]`,
  'u',
)

type BidiClass = keyof typeof BIDI
const classes = (...of: BidiClass[]): string => `[${of.map((each) => BIDI[each]).join('')}]`
const NEUTRAL: BidiClass[] = ['ES', 'CS', 'ET', 'ON', 'BN', 'NSM']
/** The conditions of RFC 5893 §2. */
const RIGHT_TO_LEFT = new RegExp(classes('R', 'AL', 'AN'), 'u')
const LETTER_LTR = new RegExp(`^${classes('L')}`, 'u')
const LETTER_RTL = new RegExp(`^${classes('R', 'AL')}`, 'u')
const WITHIN_LTR = new RegExp(`^${classes('L', 'EN', ...NEUTRAL)}*$`, 'u')
const WITHIN_RTL = new RegExp(`^${classes('R', 'AL', 'AN', 'EN', ...NEUTRAL)}*$`, 'u')
const ENDS_LTR = new RegExp(`${classes('L', 'EN')}${classes('NSM')}*$`, 'u')
const ENDS_RTL = new RegExp(`${classes('R', 'AL', 'EN', 'AN')}${classes('NSM')}*$`, 'u')
const EUROPEAN = new RegExp(classes('EN'), 'u')
const ARABIC = new RegExp(classes('AN'), 'u')

/** Why a sign is not allowed where it stands (RFC 5892 appendix A), or undefined. */
function contextTrouble(signs: string[], at: number): string | undefined {
  const sign = signs[at]!
  const before = signs[at - 1] ?? ''
  const after = signs[at + 1] ?? ''
  switch (sign) {
    case '\u00b7':
      return before === 'l' && after === 'l' ? undefined : 'it may stand between two l only'
    case '\u0375':
      return /\p{Script=Greek}/u.test(after) ? undefined : 'it may stand before a Greek letter only'
    case '\u05f3':
    case '\u05f4':
      return /\p{Script=Hebrew}/u.test(before) ? undefined : 'it may stand after a Hebrew letter only'
    case '\u30fb':
      return signs.some((each) => /[\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Han}]/u.test(each) && each !== sign)
        ? undefined
        : 'it may stand in a Japanese label only'
    case '\u200d':
      return isVirama(before) ? undefined : 'it may stand after a joining sign only'
    case '\u200c':
      return isVirama(before) || joinedAround(signs, at) ? undefined : 'it may stand between letters that join only'
    default:
      return /[\u0660-\u0669]/.test(sign) === signs.some((each) => /[\u06f0-\u06f9]/.test(each))
        ? 'two kinds of Arabic digits are mixed'
        : undefined
  }
}

/** Whether the letters around a place join across it (RFC 5892 appendix A.1); signs that they look through may stand between. */
function joinedAround(signs: string[], at: number): boolean {
  // Other joiners of the label are judged by themselves.
  const others = signs.map((sign, i) => (sign === '\u200c' && i !== at ? ' ' : sign))
  return JOINED.test(others.join(''))
}

/** The Bidi rule (RFC 5893 §2). It is for every label of a name that has any letters or digits from right to left; labels of services are none that it knows. */
function bidiTrouble(label: string): string | undefined {
  if (label === '' || /^[_*]/.test(label)) return undefined
  return RIGHT_TO_LEFT.test(label) ? fromRightTrouble(label) : besideBidi(label)
}

/** For a label from left to right beside others from right to left. */
function besideBidi(label: string): string | undefined {
  const first = label[0]!
  if (!LETTER_LTR.test(first)) return 'it begins with no letter, beside a label that runs from right to left'
  if (!WITHIN_LTR.test(label))
    return 'it has characters that are not allowed beside a label that runs from right to left'
  return ENDS_LTR.test(label)
    ? undefined
    : 'it ends with neither a letter nor a digit, beside a label that runs from right to left'
}

/** For a label from right to left. */
function fromRightTrouble(label: string): string | undefined {
  const signs = [...label]
  if (!LETTER_RTL.test(signs[0]!)) return 'it has letters that run from right to left, and does not begin with one'
  const other = signs.find((sign) => !WITHIN_RTL.test(sign))
  if (other) return `${other} runs from left to right among letters that run from right to left`
  if (!ENDS_RTL.test(label))
    return 'it has letters that run from right to left, and ends with neither such a letter nor a digit'
  return EUROPEAN.test(label) && ARABIC.test(label) ? 'two kinds of digits are mixed' : undefined
}

/** Why a label in letters beyond ASCII is not allowed, or undefined. It must be in the form that `toALabel` maps to. */
function labelTrouble(label: string): string | undefined {
  const signs = [...label]
  if (label.normalize('NFC') !== label) return 'it is not in the normal form NFC'
  if (label.slice(2, 4) === '--') return 'it has hyphens in the third and fourth place'
  if (label.startsWith('-') || label.endsWith('-')) return 'it begins or ends with a hyphen'
  if (/^\p{M}/u.test(label)) return 'it begins with a combining mark'
  for (const [at, sign] of signs.entries()) {
    const point = sign.codePointAt(0)!
    const status = idnaStatus(point)
    const named = `U+${point.toString(16).toUpperCase().padStart(4, '0')} (${sign})`
    if (status === 'disallowed') return `${named} is not allowed in domain names (RFC 5892)`
    if (status === 'unassigned') return `${named} is not assigned in the Unicode version known here`
    const context = status === 'context' ? contextTrouble(signs, at) : undefined
    if (context) return `${named}: ${context} (RFC 5892)`
  }
  return RIGHT_TO_LEFT.test(label) ? bidiTrouble(label) : undefined
}

/** A label with its letters made small, and wide and narrow ones made usual (RFC 5895 §2). */
const mappedLabel = (label: string): string =>
  label
    .replace(/[\uff00-\uffef]/g, (sign) => sign.normalize('NFKC'))
    .toLowerCase()
    .normalize('NFC')

/** A label in letters beyond ASCII as A-label, mapped first; one that maps to ASCII is that; or why it is none. */
export function toALabel(label: string): { label: string } | { refused: string } {
  const mapped = mappedLabel(label)
  if (/^[\0-\x7f]*$/.test(mapped)) return { label: mapped }
  const trouble = labelTrouble(mapped)
  if (trouble) return { refused: `“${label}”: ${trouble}` }
  const encoded = `xn--${punycode.encode(mapped)}`
  return encoded.length > 63
    ? { refused: `“${label}”: its A-label has ${encoded.length} octets (at most 63)` }
    : { label: encoded }
}

/** An A-label as people write it, or undefined where it does not decode, is not allowed, or does not lead back to itself. */
export function toULabel(label: string): string | undefined {
  if (!/^xn--/i.test(label)) return undefined
  try {
    const decoded = punycode.decode(label.slice(4).toLowerCase())
    if (/^[\0-\x7f]*$/.test(decoded) || labelTrouble(decoded)) return undefined
    return `xn--${punycode.encode(decoded)}` === label.toLowerCase() ? decoded : undefined
  } catch {
    return undefined
  }
}

/** A name as typed, its labels beyond ASCII made A-labels; the ideographic full stop parts labels too. Plain names come back as they are. */
export function toAsciiName(text: string): { name: string } | { refused: string } {
  if (/^[\0-\x7f]*$/.test(text)) return { name: text }
  const typed = text.replace(/[\u3002\uff0e\uff61]/g, '.').split('.')
  const refused = bidiNameTrouble(typed.map((label) => toULabel(label) ?? mappedLabel(label)))
  if (refused) return { refused }
  const labels: string[] = []
  for (const label of typed) {
    if (/^[\0-\x7f]*$/.test(label)) labels.push(label)
    else {
      const made = toALabel(label)
      if ('refused' in made) return made
      labels.push(made.label)
    }
  }
  return { name: labels.join('.') }
}

/** What of a name with labels from right to left is not allowed by the Bidi rule. Labels that are at fault by themselves are told of with the others. */
function bidiNameTrouble(labels: readonly string[]): string | undefined {
  if (!labels.some((label) => RIGHT_TO_LEFT.test(label))) return undefined
  for (const label of labels) {
    const why = RIGHT_TO_LEFT.test(label) ? undefined : bidiTrouble(label)
    if (why) return `“${label}”: ${why} (RFC 5893)`
  }
  return undefined
}

/** A mailbox with its domain in A-labels: what stands behind the last “@”; a domain alone is converted, too. */
export function toAsciiMailbox(text: string): { name: string } | { refused: string } {
  const at = text.lastIndexOf('@') + 1
  const domain = toAsciiName(text.slice(at))
  return 'refused' in domain ? domain : { name: text.slice(0, at) + domain.name }
}

/** A name's A-labels in people's letters, or undefined where it has none that can be shown so. */
export function inPeoplesLetters(name: string): string | undefined {
  if (!/xn--/i.test(name)) return undefined
  const shown = name
    .split('.')
    .map((label) => toULabel(label) ?? label)
    .join('.')
  return shown === name ? undefined : shown
}

/** A name, with its form in people's letters behind it where it has one: `xn--bcher-kva.example. (bücher.example.)`. */
export function bothWays(name: string): string {
  const letters = inPeoplesLetters(name)
  return letters ? `${name} (${letters})` : name
}

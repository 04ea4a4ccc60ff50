/**
 * Domain names at the edges: as text and as wire octets (RFC 1035 §3.1, §5.1).
 * A `Name` is text: absolute, with its final dot, in its own spelling, special octets escaped. The root is `.`.
 */
import { FOLD, OctetSink, octetsOf } from './octets.ts'

export type Name = string

export type NameTrouble = 'empty-label' | 'label-too-long' | 'name-too-long' | 'bad-escape' | 'empty'

/** The most octets of a label, and of a whole name with its length octets and the root (RFC 1035 §2.3.4). */
export const MAX_LABEL = 63
export const MAX_NAME = 255

const DOT = 0x2e
const BACKSLASH = 0x5c

const NEEDS_BACKSLASH = new Set([...'."\\();@$'].map((c) => c.charCodeAt(0)))

/** Octets that stand for themselves in a name's text. */
const PLAIN = new Uint8Array(256)
for (let i = 0x21; i < 0x7f; i++) PLAIN[i] = NEEDS_BACKSLASH.has(i) ? 0 : 1

/** One label's octets as text; `.`, `"`, `\`, `(`, `)`, `;`, `@`, `$` get a backslash, what is not printable ASCII becomes `\DDD` (RFC 4343 §2.1). */
export function labelText(octets: Uint8Array, start: number, end: number): string {
  let text = ''
  for (let i = start; i < end; i++) {
    const octet = octets[i]!
    if (PLAIN[octet]) text += String.fromCharCode(octet)
    else if (octet <= 0x20 || octet >= 0x7f) text += '\\' + String(octet).padStart(3, '0')
    else text += '\\' + String.fromCharCode(octet)
  }
  return text
}

/**
 * Reads one escaped octet at a backslash (RFC 1035 §5.1): `\DDD` (decimal, up to 255) or `\X`.
 * Returns the octet in the low byte and the number of octets read above it (`read << 8 | octet`), or -1 if it is malformed.
 */
export function readEscape(octets: Uint8Array, at: number, end: number): number {
  const first = at + 1 < end ? octets[at + 1]! : -1
  if (first < 0) return -1
  if (first < 0x30 || first > 0x39) return (2 << 8) | first
  if (at + 3 >= end) return -1
  const tens = octets[at + 2]! - 0x30
  const ones = octets[at + 3]! - 0x30
  if (tens < 0 || tens > 9 || ones < 0 || ones > 9) return -1
  const value = (first - 0x30) * 100 + tens * 10 + ones
  return value > 255 ? -1 : (4 << 8) | value
}

/**
 * Writes the labels of a name's text (length octet and octets each, no root) to `out`, from `start` up to `end` of `octets`.
 * Returns whether the text ended with an unescaped dot (an absolute name), or what is wrong. `.` alone is the root: absolute, no labels.
 */
export function readLabels(octets: Uint8Array, start: number, end: number, out: OctetSink): boolean | NameTrouble {
  if (start >= end) return 'empty'
  if (end - start === 1 && octets[start] === DOT) return true
  // A label takes no more octets than its text with a dot; one octet more is for the length in front.
  out.room(end - start + 2)
  const wire = out.octets
  const first = out.length
  let lengthAt = first
  let to = first + 1
  let at = start
  while (at < end) {
    let octet = octets[at]
    if (octet === DOT) {
      const length = to - lengthAt - 1
      if (length === 0) return 'empty-label'
      wire[lengthAt] = length
      at++
      if (at === end) {
        out.length = to
        return to - first + 1 > MAX_NAME ? 'name-too-long' : true
      }
      lengthAt = to++
      continue
    }
    if (octet === BACKSLASH) {
      const read = readEscape(octets, at, end)
      if (read < 0) return 'bad-escape'
      octet = read & 0xff
      at += read >> 8
    } else at++
    if (to - lengthAt > MAX_LABEL) return 'label-too-long'
    wire[to++] = octet!
  }
  wire[lengthAt] = to - lengthAt - 1
  out.length = to
  return to - first + 1 > MAX_NAME ? 'name-too-long' : false
}

/** What a trouble means, for a message: "a label has over 63 octets". */
export const NAME_TROUBLE_TEXT: Record<NameTrouble, string> = {
  empty: 'it is empty',
  'empty-label': 'it has two dots in a row or a leading dot',
  'label-too-long': 'a label has more than 63 octets',
  'name-too-long': 'the whole name has more than 255 octets',
  'bad-escape': 'a backslash is followed by neither a character nor three digits up to 255',
}

/** Wire octets (with the root's zero) of a name's text; a relative name is completed by `origin` (wire octets, `@` alone is the origin). Returns what is wrong instead where something is. */
export function nameToWire(text: string, origin?: Uint8Array): Uint8Array | NameTrouble {
  if (text === '@' && origin) return origin
  WORK.length = 0
  const octets = octetsOf(text)
  const absolute = readLabels(octets, 0, octets.length, WORK)
  if (typeof absolute === 'string') return absolute
  if (absolute || !origin) WORK.u8(0)
  else WORK.put(origin)
  return WORK.length > MAX_NAME ? 'name-too-long' : WORK.taken()
}

/** Where names are put together; what comes of it is copied out. */
const WORK = new OctetSink(512)

/** The octets a name takes at `at` of uncompressed wire data, the root's zero included. */
export function wireNameLength(octets: Uint8Array, at: number): number {
  let end = at
  while (octets[end] !== 0) end += octets[end]! + 1
  return end + 1 - at
}

/** Text of an uncompressed wire name at `at`; with `origin` (wire octets) a name at or below it is given relative to it, the origin itself as `@`. */
export function wireToName(octets: Uint8Array, at = 0, origin?: Uint8Array): Name {
  let text = ''
  let here = at
  const relativeTo = origin && origin.length > 1 ? at + wireNameLength(octets, at) - origin.length : -1
  while (octets[here] !== 0) {
    if (here === relativeTo && sameFolded(octets, here, origin!, 0, origin!.length))
      return text === '' ? '@' : text.slice(0, -1)
    text += labelText(octets, here + 1, here + 1 + octets[here]!) + '.'
    here += octets[here]! + 1
  }
  return text === '' ? '.' : text
}

/** Whether `length` octets are equal when letters' case is set aside. */
export function sameFolded(a: Uint8Array, aStart: number, b: Uint8Array, bStart: number, length: number): boolean {
  for (let i = 0; i < length; i++) if (FOLD[a[aStart + i]!] !== FOLD[b[bStart + i]!]) return false
  return true
}

/** A name's text made absolute and canonical in its escapes, or undefined if it is no name; relative ones are completed by the root. */
export function toName(text: string): Name | undefined {
  const wire = nameToWire(text)
  return typeof wire === 'string' ? undefined : wireToName(wire)
}

/** ASCII letters of a name in lower case: two names are the same when these are (RFC 4343 §3). */
export function foldName(name: Name): Name {
  return name.replace(/[A-Z]+/g, (letters) => letters.toLowerCase())
}

/** The labels of a name, leftmost first, escapes kept. The root has none. */
export function labelsOf(name: Name): string[] {
  if (name === '.' || name === '') return []
  const labels: string[] = []
  let label = ''
  for (let i = 0; i < name.length; i++) {
    if (name[i] === '\\') label += name[i]! + name[++i]!
    else if (name[i] === '.') {
      labels.push(label)
      label = ''
    } else label += name[i]
  }
  if (label !== '') labels.push(label)
  return labels
}

/** Whether a name is `ancestor` itself or below it, case set aside. */
export function isAtOrBelow(name: Name, ancestor: Name): boolean {
  if (ancestor === '.') return true
  const folded = foldName(name)
  const top = foldName(ancestor)
  if (folded === top) return true
  if (!folded.endsWith('.' + top)) return false
  const before = folded.slice(0, folded.length - top.length - 1)
  const slashes = /(?<!\\)\\*$/.exec(before)![0].length
  return slashes % 2 === 0
}

/** A name as it stands in its zone: relative to it, `apex` for the zone itself; absolute where it is not in it, or where the short form would look like another name. */
export function relativeName(name: Name, zone: Name, apex = '@'): string {
  const folded = foldName(name)
  const above = foldName(zone)
  if (folded === above) return apex
  if (above === '.' || !isAtOrBelow(name, zone)) return name
  // With the zone’s name in it twice, the short form would look like the name that was meant.
  return `.${folded.slice(0, -above.length - 1)}.`.endsWith(`.${above}`) ? name : name.slice(0, -above.length - 1)
}

/** A name without its final dot, for text that people read; the root stays `.`. */
export const bare = (name: Name): string => (name === '.' ? name : name.replace(/\.$/, ''))

/** Finds a name in a text, in any case, where it stands by itself or behind a label, and nothing goes on behind it. */
export const nameInText = (name: Name): RegExp =>
  new RegExp(`(?<![\\w-])${bare(foldName(name)).replace(/[.\\]/g, '\\$&')}(?![\\w-]|\\.\\w)`, 'gi')

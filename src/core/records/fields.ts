/** The kinds of field that record data is made of. Each reads itself from tokens, writes itself as text, and finds its end in wire octets. */
import { addressText, readIPv4, readIPv6 } from '../names/address.ts'
import { MAX_NAME, NAME_TROUBLE_TEXT, type NameTrouble, readLabels, wireToName } from '../names/name.ts'
import type { OctetSink } from '../names/octets.ts'
import { u16At, u32At } from '../names/octets.ts'
import type { ProblemKind, TokenCursor } from './tokens.ts'
import { parseTtl } from './ttl.ts'

export interface FieldKind {
  /** A domain name: compressed or folded where the type allows it. */
  readonly isName?: boolean
  /** Its tokens may stand in quotes. */
  readonly isText?: boolean
  /** Reads tokens into wire octets; returns false with `cursor.trouble` noted where they do not fit. */
  read(cursor: TokenCursor, out: OctetSink, label: string): boolean
  /** Text of the octets from `at` up to `end` (the end of this field); with `origin`, names below it are relative. */
  text(wire: Uint8Array, at: number, end: number, origin?: Uint8Array): string
  /** Where the field that begins at `at` ends, or -1 where the octets up to `limit` do not hold one. */
  end(wire: Uint8Array, at: number, limit: number): number
}

const PROBLEM_OF_NAME: Record<NameTrouble, ProblemKind> = {
  empty: 'bad-name',
  'empty-label': 'empty-label',
  'label-too-long': 'label-too-long',
  'name-too-long': 'name-too-long',
  'bad-escape': 'bad-name',
}

const WANTED_OF_NAME: Record<NameTrouble, string> = {
  empty: 'write a name, or @ for the origin',
  'empty-label': 'write one dot between two labels, and none in front',
  'label-too-long': 'shorten the label to 63 octets or fewer',
  'name-too-long': 'shorten the name to 255 octets or fewer, the zone’s own included',
  'bad-escape': 'write \\\\ for a backslash itself',
}

/**
 * Reads a token as a domain name into wire octets; `@` is the origin, a relative name is completed by it.
 * Returns 1 for a relative name, 0 for an absolute one, -1 with `cursor.trouble` noted for a malformed one.
 */
export function readNameToken(cursor: TokenCursor, token: number, out: OctetSink): number {
  const start = cursor.starts[token]!
  const end = cursor.ends[token]!
  if (end - start === 1 && cursor.octets[start] === 0x40) {
    out.put(cursor.origin)
    return 0
  }
  const from = out.length
  let absolute = readLabels(cursor.octets, start, end, out)
  if (absolute === true) out.u8(0)
  else if (absolute === false) {
    out.put(cursor.origin)
    if (out.length - from > MAX_NAME) absolute = 'name-too-long'
  }
  if (typeof absolute === 'string') {
    cursor.fail(
      PROBLEM_OF_NAME[absolute],
      token,
      `not a domain name: ${NAME_TROUBLE_TEXT[absolute]}`,
      WANTED_OF_NAME[absolute],
    )
    return -1
  }
  return absolute ? 0 : 1
}

function uint(octets: 1 | 2 | 4): FieldKind {
  const most = 2 ** (8 * octets) - 1
  return {
    read(cursor, out, label) {
      const token = cursor.take(label)
      if (token < 0) return false
      const value = cursor.number(token)
      if (value < 0 || value > most)
        return cursor.fail('bad-number', token, `${label} must be a whole number`, `a number from 0 to ${most}`)
      if (octets === 1) out.u8(value)
      else if (octets === 2) out.u16(value)
      else out.u32(value)
      return true
    },
    text: (wire, at) => String(octets === 1 ? wire[at] : octets === 2 ? u16At(wire, at) : u32At(wire, at)),
    end: (_wire, at, limit) => (at + octets <= limit ? at + octets : -1),
  }
}

export const u8 = uint(1)
export const u16 = uint(2)
export const u32 = uint(4)

/** A time in seconds, on 32 bits; the text may use units (`1h30m`). */
export const seconds: FieldKind = {
  ...u32,
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const value = parseTtl(cursor.octets, cursor.starts[token]!, cursor.ends[token]!)
    if (value < 0)
      return cursor.fail(
        'bad-ttl',
        token,
        `${label} must be a time`,
        'seconds, or a number with units as in 1h30m (w d h m s)',
      )
    out.u32(value)
    return true
  },
}

export const name: FieldKind = {
  isName: true,
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const relative = readNameToken(cursor, token, out)
    cursor.targetRelative = relative === 1
    return relative >= 0
  },
  text: (wire, at, _end, origin) => wireToName(wire, at, origin),
  end(wire, at, limit) {
    let here = at
    while (here < limit) {
      const length = wire[here]!
      if (length === 0) return here + 1 - at <= MAX_NAME ? here + 1 : -1
      if (length > 63) return -1
      here += length + 1
    }
    return -1
  },
}

function address(octets: 4 | 16, readIt: typeof readIPv4, wanted: string): FieldKind {
  return {
    read(cursor, out, label) {
      const token = cursor.take(label)
      if (token < 0) return false
      out.room(octets)
      if (!readIt(cursor.octets, cursor.starts[token]!, cursor.ends[token]!, out.octets, out.length))
        return cursor.fail('bad-address', token, `not ${label}`, wanted)
      out.length += octets
      return true
    },
    text: (wire, at) => addressText(wire.subarray(at, at + octets)),
    end: (_wire, at, limit) => (at + octets <= limit ? at + octets : -1),
  }
}

export const ipv4 = address(4, readIPv4, 'four numbers from 0 to 255, as in 192.0.2.7')
export const ipv6 = address(16, readIPv6, 'groups of hexadecimal digits, as in 2001:db8::7')

/** The most octets of a character-string (RFC 1035 §3.3). */
export const MAX_STRING = 255

function readString(cursor: TokenCursor, token: number, out: OctetSink): boolean {
  const { octets } = cursor
  const start = cursor.starts[token]!
  const end = cursor.ends[token]!
  let plain = end - start <= MAX_STRING
  for (let i = start; plain && i < end; i++) plain = octets[i] !== 0x5c
  if (plain) {
    out.u8(end - start)
    out.put(octets, start, end)
    return true
  }
  const content = cursor.unescaped(token)
  if (!content) return false
  if (content.length > MAX_STRING)
    return cursor.fail(
      'string-too-long',
      token,
      `one string has ${content.length} octets (at most 255)`,
      'split it into several quoted strings of 255 octets or fewer',
    )
  out.u8(content.length)
  out.put(content)
  return true
}

/** A character-string in quotes: `"` and `\` get a backslash, what is not printable ASCII becomes `\DDD`. */
export function stringText(octets: Uint8Array, start: number, end: number): string {
  let text = '"'
  for (let i = start; i < end; i++) {
    const octet = octets[i]!
    if (octet === 0x22 || octet === 0x5c) text += '\\' + String.fromCharCode(octet)
    else if (octet < 0x20 || octet > 0x7e) text += '\\' + String(octet).padStart(3, '0')
    else text += String.fromCharCode(octet)
  }
  return text + '"'
}

/** One or more character-strings, to the end of the record. */
export const strings: FieldKind = {
  isText: true,
  read(cursor, out, label) {
    if (cursor.at === cursor.count) return cursor.take(label) >= 0
    while (cursor.at < cursor.count) if (!readString(cursor, cursor.at++, out)) return false
    return true
  },
  text(wire, at, end) {
    const parts: string[] = []
    for (let here = at; here < end; here += wire[here]! + 1)
      parts.push(stringText(wire, here + 1, here + 1 + wire[here]!))
    return parts.join(' ')
  },
  end(wire, at, limit) {
    let here = at
    while (here < limit) here += wire[here]! + 1
    return here === limit && limit > at ? limit : -1
  },
}

/** Exactly one character-string. */
export const string: FieldKind = {
  isText: true,
  read(cursor, out, label) {
    const token = cursor.take(label)
    return token >= 0 && readString(cursor, token, out)
  },
  text: (wire, at, end) => stringText(wire, at + 1, end),
  end: (wire, at, limit) => (at < limit && at + 1 + wire[at]! <= limit ? at + 1 + wire[at]! : -1),
}

/** A character-string that may be left out, at the end of the record. */
export const optionalString: FieldKind = {
  isText: true,
  read: (cursor, out, label) => cursor.at === cursor.count || string.read(cursor, out, label),
  text: (wire, at, end) => (at === end ? '' : string.text(wire, at, end)),
  end: (wire, at, limit) => (at === limit ? at : string.end(wire, at, limit)),
}

/** Text of any length that takes the rest of the record: in quotes, or (where the type allows that) without. */
const longText = (needsQuotes: boolean): FieldKind => ({
  isText: true,
  read(cursor, out, label) {
    const token = cursor.take(label)
    const content = token < 0 ? undefined : cursor.unescaped(token)
    if (!content) return false
    if (needsQuotes && !cursor.quoted[token])
      cursor.note('unquoted', token, `${label} has no quotes`, `"${cursor.text(token)}"`)
    out.put(content)
    return true
  },
  text: (wire, at, end) => stringText(wire, at, end),
  end: (_wire, _at, limit) => limit,
})
/** RFC 7553 §4.4: the target of URI is in quotes. */
export const quotedText = longText(true)
/** RFC 8659 §4.1.1: the value of CAA may be in quotes. */
export const anyText = longText(false)

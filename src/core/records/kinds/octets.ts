/** Octets as text: encoded to the end of the record, behind a length, or of a fixed length. */
import { latin1Of, u16At } from '../../names/octets.ts'
import { base32Text, base64Text, hexText, parseBase32, parseBase64, parseHex } from '../encodings.ts'
import type { FieldKind } from '../fields.ts'
import type { TokenCursor } from '../tokens.ts'

/** The text of the tokens that are left, joined without blanks. */
function restWord(cursor: TokenCursor): string {
  let text = ''
  while (cursor.at < cursor.count) {
    text += latin1Of(cursor.octets, cursor.starts[cursor.at]!, cursor.ends[cursor.at]!)
    cursor.at++
  }
  return text
}

/** The whole text of a token, as signs. */
export const wordAt = (cursor: TokenCursor, token: number): string =>
  latin1Of(cursor.octets, cursor.starts[token]!, cursor.ends[token]!)

function encodedRest(
  encode: (octets: Uint8Array) => string,
  decode: (text: string) => Uint8Array | undefined,
  wanted: string,
  least: number,
): FieldKind {
  return {
    read(cursor, out, label) {
      const first = cursor.at
      if (first === cursor.count) return least === 0 || cursor.take(label) >= 0
      const octets = decode(restWord(cursor))
      if (!octets || octets.length < least) return cursor.fail('bad-value', first, `not ${label}`, wanted)
      out.put(octets)
      return true
    },
    text: (wire, at, end) => encode(wire.subarray(at, end)),
    end: (_wire, at, limit) => (limit - at >= least ? limit : -1),
  }
}

/** Hexadecimal or base64 to the end of the record; blanks in it do not count. */
export const hexRest = encodedRest(hexText, parseHex, 'hexadecimal digits, two for each octet', 1)
export const base64Rest = encodedRest(base64Text, parseBase64, 'base64, with its = at the end', 1)
/** The same where nothing at all is possible. */
export const base64Possible = encodedRest(base64Text, parseBase64, 'base64, with its = at the end', 0)

/** The same where `-` says that there is none. */
export const base64OrNone = encodedRest(
  (octets) => (octets.length === 0 ? '-' : base64Text(octets)),
  (text) => (text === '-' ? new Uint8Array(0) : parseBase64(text)),
  'base64, with its = at the end, or - for none',
  0,
)

function counted(
  encode: (octets: Uint8Array) => string,
  decode: (text: string) => Uint8Array | undefined,
  wanted: string,
): FieldKind {
  return {
    read(cursor, out, label) {
      const token = cursor.take(label)
      if (token < 0) return false
      const octets = decode(wordAt(cursor, token))
      if (!octets || octets.length > 255) return cursor.fail('bad-value', token, `not ${label}`, wanted)
      out.u8(octets.length)
      out.put(octets)
      return true
    },
    text: (wire, at, end) => encode(wire.subarray(at + 1, end)),
    end: (wire, at, limit) => (at < limit && at + 1 + wire[at]! <= limit ? at + 1 + wire[at]! : -1),
  }
}

/** A length octet and octets: a salt (`-` for none), and a hashed name (RFC 5155 §3.3). */
export const salt = counted(
  (octets) => (octets.length === 0 ? '-' : hexText(octets)),
  (text) => (text === '-' ? new Uint8Array(0) : text === '' ? undefined : parseHex(text)),
  'hexadecimal digits, or - for none',
)
const hashed = counted(
  base32Text,
  (text) => (text === '' ? undefined : parseBase32(text)),
  'base32 with the extended hexadecimal alphabet, without padding',
)
/** A hash has at least one octet (RFC 5155 §3.2): none has no text either. */
export const hashedName: FieldKind = {
  ...hashed,
  end: (wire, at, limit) => (wire[at] === 0 ? -1 : hashed.end(wire, at, limit)),
}

/** `00-00-5e-00-53-2a`: six or eight octets (RFC 7043). */
function hardwareAddress(octets: 6 | 8): FieldKind {
  const form = new RegExp(`^[0-9a-f]{2}(-[0-9a-f]{2}){${octets - 1}}$`, 'i')
  return fixed(
    octets,
    'octets in hexadecimal, joined by hyphens',
    (text) => (form.test(text) ? parseHex(text.replaceAll('-', '')) : undefined),
    (wire) => hexText(wire).replace(/..(?=.)/g, '$&-'),
  )
}

function fixed(
  octets: number,
  wanted: string,
  parse: (text: string) => Uint8Array | undefined,
  text: (wire: Uint8Array) => string,
): FieldKind {
  return {
    read(cursor, out, label) {
      const token = cursor.take(label)
      if (token < 0) return false
      const value = parse(cursor.word(token))
      if (!value) return cursor.fail('bad-value', token, `not ${label}`, wanted)
      out.put(value)
      return true
    },
    text: (wire, at) => text(wire.subarray(at, at + octets)),
    end: (_wire, at, limit) => (at + octets <= limit ? at + octets : -1),
  }
}

export const eui48 = hardwareAddress(6)
export const eui64 = hardwareAddress(8)

/** `0014:4fff:ff20:ee64`: 64 bits in four groups (RFC 6742 §2). */
export const node64 = fixed(
  8,
  'four groups of up to four hexadecimal digits, joined by colons',
  (text) =>
    /^[0-9a-f]{1,4}(:[0-9a-f]{1,4}){3}$/i.test(text)
      ? parseHex(
          text
            .split(':')
            .map((group) => group.padStart(4, '0'))
            .join(''),
        )
      : undefined,
  (wire) => [0, 2, 4, 6].map((at) => u16At(wire, at).toString(16).padStart(4, '0')).join(':'),
)

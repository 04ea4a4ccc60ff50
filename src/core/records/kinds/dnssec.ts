/** Fields of DNSSEC and of certificates: numbers that have words, types, moments. */
import { u16At, u32At } from '../../names/octets.ts'
import type { FieldKind } from '../fields.ts'
import { parseType, typeText } from '../type-names.ts'

/** A number that some write as a word. */
function numberOrWord(octets: 1 | 2, words: Record<string, number>): FieldKind {
  const most = octets === 1 ? 255 : 65_535
  return {
    read(cursor, out, label) {
      const token = cursor.take(label)
      if (token < 0) return false
      const value = words[cursor.word(token).toUpperCase()] ?? cursor.number(token)
      if (value < 0 || value > most)
        return cursor.fail(
          'bad-number',
          token,
          `${label} must be a number`,
          `a number from 0 to ${most}, or one of ${Object.keys(words).join(', ')}`,
        )
      if (octets === 1) out.u8(value)
      else out.u16(value)
      return true
    },
    text: (wire, at) => String(octets === 1 ? wire[at] : u16At(wire, at)),
    end: (_wire, at, limit) => (at + octets <= limit ? at + octets : -1),
  }
}

/** Algorithms of DNSSEC keys (RFC 9904 §2) and kinds of certificate (RFC 4398 §2.1): words are read, numbers are written. */
export const algorithm = numberOrWord(1, {
  RSAMD5: 1,
  DH: 2,
  DSA: 3,
  RSASHA1: 5,
  'DSA-NSEC3-SHA1': 6,
  'RSASHA1-NSEC3-SHA1': 7,
  RSASHA256: 8,
  RSASHA512: 10,
  'ECC-GOST': 12,
  ECDSAP256SHA256: 13,
  ECDSAP384SHA384: 14,
  ED25519: 15,
  ED448: 16,
  INDIRECT: 252,
  PRIVATEDNS: 253,
  PRIVATEOID: 254,
})
/** How a change is announced (RFC 9859 §2.2). */
export const scheme = numberOrWord(1, { NOTIFY: 1 })
export const certificateKind = numberOrWord(2, {
  PKIX: 1,
  SPKI: 2,
  PGP: 3,
  IPKIX: 4,
  ISPKI: 5,
  IPGP: 6,
  ACPKIX: 7,
  IACPKIX: 8,
  URI: 253,
  OID: 254,
})

/** The type that a signature covers. */
export const typeCovered: FieldKind = {
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const type = parseType(cursor.word(token))
    if (type === undefined) return cursor.fail('bad-value', token, 'not a record type', 'a type such as A or TYPE123')
    out.u16(type)
    return true
  },
  text: (wire, at) => typeText(u16At(wire, at)),
  end: (_wire, at, limit) => (at + 2 <= limit ? at + 2 : -1),
}

/** A list of types as windows of bits (RFC 4034 §4.1.2), to the end of the record; it may be empty. */
export const typeList: FieldKind = {
  read(cursor, out) {
    const types: number[] = []
    while (cursor.at < cursor.count) {
      const type = parseType(cursor.word(cursor.at))
      if (type === undefined)
        return cursor.fail('bad-value', cursor.at, 'not a record type', 'types such as A, MX or TYPE123')
      types.push(type)
      cursor.at++
    }
    for (const window of [...new Set(types.map((type) => type >> 8))].sort((a, b) => a - b)) {
      const low = types.filter((type) => type >> 8 === window).map((type) => type & 255)
      const bits = new Uint8Array((Math.max(...low) >> 3) + 1)
      for (const type of low) bits[type >> 3]! |= 0x80 >> (type & 7)
      out.u8(window)
      out.u8(bits.length)
      out.put(bits)
    }
    return true
  },
  text(wire, at, end) {
    const types: string[] = []
    for (let here = at; here < end; here += 2 + wire[here + 1]!)
      for (let bit = 0; bit < wire[here + 1]! * 8; bit++)
        if (wire[here + 2 + (bit >> 3)]! & (0x80 >> (bit & 7))) types.push(typeText((wire[here]! << 8) | bit))
    return types.join(' ')
  },
  end(wire, at, limit) {
    let here = at
    let window = -1
    while (here < limit) {
      if (
        here + 2 > limit ||
        wire[here]! <= window ||
        wire[here + 1] === 0 ||
        wire[here + 1]! > 32 ||
        here + 2 + wire[here + 1]! > limit
      )
        return -1
      window = wire[here]!
      here += 2 + wire[here + 1]!
    }
    return here
  },
}

/** The seconds since 1970 of YYYYMMDDHHmmSS; undefined for a date or time that there is not. */
function secondsOf(digits: string): number | undefined {
  const part = (from: number, to: number): number => Number(digits.slice(from, to))
  const date = new Date(Date.UTC(part(0, 4), part(4, 6) - 1, part(6, 8), part(8, 10), part(10, 12), part(12, 14)))
  return date.toISOString().replace(/\D/g, '').slice(0, 14) === digits ? date.getTime() / 1000 : undefined
}

/** A moment as YYYYMMDDHHmmSS in UTC, or in seconds since 1970 (RFC 4034 §3.2), on 32 bits. */
export const moment: FieldKind = {
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const digits = cursor.word(token)
    const isDate = /^\d{14}$/.test(digits)
    const value = isDate ? secondsOf(digits) : cursor.number(token)
    if (value === undefined || value < 0 || (!isDate && value > 0xffffffff))
      return cursor.fail(
        'bad-value',
        token,
        `${label} must be a moment${isDate ? ': there is no such date or time' : ''}`,
        'YYYYMMDDHHmmSS in UTC',
      )
    out.u32(value % 2 ** 32)
    return true
  },
  text: (wire, at) => new Date(u32At(wire, at) * 1000).toISOString().replace(/[-:T]/g, '').slice(0, 14),
  end: (_wire, at, limit) => (at + 4 <= limit ? at + 4 : -1),
}

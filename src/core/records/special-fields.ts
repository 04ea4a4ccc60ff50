/** Kinds of field that only a few types have: encoded octets, type lists, times, places on the earth, keys with gateways, service parameters. */
import { addressText, parseAddress } from '../names/address.ts'
import { wireNameLength, wireToName } from '../names/name.ts'
import { latin1Of, OctetSink, octetsOf, u16At, u32At } from '../names/octets.ts'
import { base32Text, base64Text, hexText, parseBase32, parseBase64, parseHex } from './encodings.ts'
import { type FieldKind, name, readNameToken, stringText } from './fields.ts'
import type { TokenCursor } from './tokens.ts'
import { parseType, typeText } from './type-names.ts'

/** The text of the tokens that are left, joined without blanks. */
function restWord(cursor: TokenCursor): string {
  let text = ''
  while (cursor.at < cursor.count) {
    text += latin1Of(cursor.octets, cursor.starts[cursor.at], cursor.ends[cursor.at])
    cursor.at++
  }
  return text
}

/** The whole text of a token, as signs. */
const wordAt = (cursor: TokenCursor, token: number): string =>
  latin1Of(cursor.octets, cursor.starts[token], cursor.ends[token])

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
    end: (wire, at, limit) => (at < limit && at + 1 + wire[at] <= limit ? at + 1 + wire[at] : -1),
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
      for (const type of low) bits[type >> 3] |= 0x80 >> (type & 7)
      out.u8(window)
      out.u8(bits.length)
      out.put(bits)
    }
    return true
  },
  text(wire, at, end) {
    const types: string[] = []
    for (let here = at; here < end; here += 2 + wire[here + 1])
      for (let bit = 0; bit < wire[here + 1] * 8; bit++)
        if (wire[here + 2 + (bit >> 3)] & (0x80 >> (bit & 7))) types.push(typeText((wire[here] << 8) | bit))
    return types.join(' ')
  },
  end(wire, at, limit) {
    let here = at
    let window = -1
    while (here < limit) {
      if (
        here + 2 > limit ||
        wire[here] <= window ||
        wire[here + 1] === 0 ||
        wire[here + 1] > 32 ||
        here + 2 + wire[here + 1] > limit
      )
        return -1
      window = wire[here]
      here += 2 + wire[here + 1]
    }
    return here
  },
}

/** The seconds since 1970 of YYYYMMDDHHmmSS; undefined for a date or time that there is not. */
function secondsOf(digits: string): number | undefined {
  const [year, month, day, hours, minutes, seconds] = [0, 4, 6, 8, 10, 12].map((at, i) =>
    Number(digits.slice(at, i === 0 ? 4 : at + 2)),
  )
  const date = new Date(Date.UTC(year, month - 1, day, hours, minutes, seconds))
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

/** A CAA property's tag: letters and digits behind a length octet (RFC 8659 §4.1). */
export const tag: FieldKind = {
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const word = wordAt(cursor, token)
    if (!/^[0-9a-z]{1,255}$/i.test(word))
      return cursor.fail('bad-value', token, `not ${label}`, 'letters and digits, as in issue')
    out.u8(word.length)
    out.put(octetsOf(word))
    return true
  },
  text: (wire, at, end) => latin1Of(wire, at + 1, end),
  end(wire, at, limit) {
    const end = at + 1 + wire[at]
    return at < limit && wire[at] > 0 && end <= limit && /^[0-9a-z]+$/i.test(latin1Of(wire, at + 1, end)) ? end : -1
  },
}

/** Address prefixes (RFC 3123 §5): `1:192.0.2.0/24`, `!2:2001:db8::/32`, to the end of the record. */
export const prefixes: FieldKind = {
  read(cursor, out) {
    for (; cursor.at < cursor.count; cursor.at++) {
      const match = /^(!?)([12]):([0-9a-f:.]+)\/(\d{1,3})$/i.exec(cursor.word(cursor.at))
      const address = match && parseAddress(match[3])
      const family = Number(match?.[2])
      if (!match || !address || address.length !== (family === 1 ? 4 : 16) || Number(match[4]) > address.length * 8)
        return cursor.fail('bad-value', cursor.at, 'not an address prefix', 'as in 1:192.0.2.0/24 or !2:2001:db8::/32')
      let length = address.length
      while (length > 0 && address[length - 1] === 0) length--
      out.u16(family)
      out.u8(Number(match[4]))
      out.u8(length | (match[1] ? 0x80 : 0))
      out.put(address, 0, length)
    }
    return true
  },
  text(wire, at, end) {
    const items: string[] = []
    for (let here = at; here < end; here += 4 + (wire[here + 3] & 0x7f)) {
      const address = new Uint8Array(u16At(wire, here) === 1 ? 4 : 16)
      address.set(wire.subarray(here + 4, here + 4 + (wire[here + 3] & 0x7f)))
      items.push(`${wire[here + 3] & 0x80 ? '!' : ''}${u16At(wire, here)}:${addressText(address)}/${wire[here + 2]}`)
    }
    return items.join(' ')
  },
  end(wire, at, limit) {
    let here = at
    while (here < limit) {
      if (here + 4 > limit) return -1
      const family = u16At(wire, here)
      const length = wire[here + 3] & 0x7f
      if (
        (family !== 1 && family !== 2) ||
        length > (family === 1 ? 4 : 16) ||
        wire[here + 2] > (family === 1 ? 32 : 128) ||
        here + 4 + length > limit
      )
        return -1
      here += 4 + length
    }
    return here
  },
}

/** Names to the end of the record, uncompressed. */
function readNames(cursor: TokenCursor, out: OctetSink): boolean {
  while (cursor.at < cursor.count) if (readNameToken(cursor, cursor.at++, out) < 0) return false
  return true
}

/** A host identity (RFC 8005 §5, §6): algorithm, identity tag, public key, rendezvous servers. */
export const hostIdentity: FieldKind = {
  read(cursor, out) {
    const algorithmToken = cursor.take('the key algorithm')
    const tagToken = algorithmToken < 0 ? -1 : cursor.take('the host identity tag')
    const keyToken = tagToken < 0 ? -1 : cursor.take('the public key')
    if (keyToken < 0) return false
    const value = cursor.number(algorithmToken)
    const hit = parseHex(wordAt(cursor, tagToken))
    const key = parseBase64(wordAt(cursor, keyToken))
    if (value < 0 || value > 255)
      return cursor.fail('bad-number', algorithmToken, 'the key algorithm must be a number', 'a number from 0 to 255')
    if (!hit?.length || hit.length > 255)
      return cursor.fail('bad-value', tagToken, 'not a host identity tag', 'hexadecimal digits, two for each octet')
    if (!key?.length) return cursor.fail('bad-value', keyToken, 'not a public key', 'base64, with its = at the end')
    out.u8(hit.length)
    out.u8(value)
    out.u16(key.length)
    out.put(hit)
    out.put(key)
    return readNames(cursor, out)
  },
  text(wire, at, end, origin) {
    const hit = at + 4
    const key = hit + wire[at]
    const servers = key + u16At(wire, at + 2)
    const names: string[] = []
    for (let here = servers; here < end; here += wireNameLength(wire, here)) names.push(wireToName(wire, here, origin))
    return [wire[at + 1], hexText(wire.subarray(hit, key)), base64Text(wire.subarray(key, servers)), ...names].join(' ')
  },
  end(wire, at, limit) {
    if (at + 4 > limit || wire[at] === 0 || u16At(wire, at + 2) === 0) return -1
    let here = at + 4 + wire[at] + u16At(wire, at + 2)
    while (here >= 0 && here < limit) here = name.end(wire, here, limit)
    return here === limit ? here : -1
  },
}

/** An address or a name by its kind: 0 for none (written `.`), 1 for IPv4, 2 for IPv6, 3 for a name. */
function readGateway(cursor: TokenCursor, out: OctetSink, kind: number, what: string): boolean {
  const token = cursor.take(what)
  if (token < 0) return false
  if (kind === 3) return readNameToken(cursor, token, out) >= 0
  const word = cursor.word(token)
  const gateway = kind === 0 ? (word === '.' ? new Uint8Array(0) : undefined) : parseAddress(word)
  if (!gateway || gateway.length !== [0, 4, 16][kind])
    return cursor.fail(
      'bad-value',
      token,
      `not ${what} of that type`,
      '. for type 0, an IPv4 address for 1, an IPv6 address for 2, a name for 3',
    )
  out.put(gateway)
  return true
}

function gatewayText(wire: Uint8Array, at: number, end: number, kind: number, origin?: Uint8Array): string {
  return kind === 0 ? '.' : kind === 3 ? wireToName(wire, at, origin) : addressText(wire.subarray(at, end))
}

/** The octets of a gateway; -1 where it does not fit. */
function gatewayLength(wire: Uint8Array, at: number, limit: number, kind: number): number {
  const end = kind < 3 ? at + [0, 4, 16][kind] : kind === 3 ? name.end(wire, at, limit) : -1
  return end < 0 || end > limit ? -1 : end - at
}

function readNumber(cursor: TokenCursor, what: string, most: number): number {
  const token = cursor.take(what)
  const value = token < 0 ? -1 : cursor.number(token)
  if (token < 0 || (value >= 0 && value <= most)) return value
  cursor.fail('bad-number', token, `${what} must be a number`, `a number from 0 to ${most}`)
  return -1
}

/** A gateway and a key (RFC 4025 §3): precedence, gateway type, algorithm, gateway, base64 (none where the algorithm is 0). */
export const gatewayKey: FieldKind = {
  read(cursor, out) {
    const numbers: number[] = []
    for (const [what, most] of [
      ['the precedence', 255],
      ['the gateway type', 3],
      ['the algorithm', 255],
    ] as const) {
      const value = readNumber(cursor, what, most)
      if (value < 0) return false
      numbers.push(value)
      out.u8(value)
    }
    if (!readGateway(cursor, out, numbers[1], 'a gateway')) return false
    if ((numbers[2] === 0) === cursor.at < cursor.count)
      return cursor.fail(
        'bad-value',
        cursor.at,
        numbers[2] === 0
          ? 'the algorithm is 0, for no key, and a key is there'
          : `the algorithm is ${numbers[2]}, and no key is there`,
        numbers[2] === 0 ? 'no key, or the algorithm of the key' : 'the public key, or the algorithm 0',
      )
    return base64Possible.read(cursor, out, 'the public key')
  },
  text(wire, at, end, origin) {
    const kind = wire[at + 1]
    const key = at + 3 + gatewayLength(wire, at + 3, end, kind)
    const words = [wire[at], kind, wire[at + 2], gatewayText(wire, at + 3, key, kind, origin)]
    if (key < end) words.push(base64Text(wire.subarray(key, end)))
    return words.join(' ')
  },
  end(wire, at, limit) {
    const length = at + 3 <= limit ? gatewayLength(wire, at + 3, limit, wire[at + 1]) : -1
    return length >= 0 && (wire[at + 2] === 0) === (at + 3 + length === limit) ? limit : -1
  },
}

/** A relay (RFC 8777 §4): precedence, whether discovery is optional, relay type, relay. */
export const relay: FieldKind = {
  read(cursor, out) {
    const precedence = readNumber(cursor, 'the precedence', 255)
    const optional = precedence < 0 ? -1 : readNumber(cursor, 'the discovery bit', 1)
    const kind = optional < 0 ? -1 : readNumber(cursor, 'the relay type', 3)
    if (kind < 0) return false
    out.u8(precedence)
    out.u8((optional << 7) | kind)
    return readGateway(cursor, out, kind, 'a relay')
  },
  text: (wire, at, end, origin) =>
    [
      wire[at],
      wire[at + 1] >> 7,
      wire[at + 1] & 0x7f,
      gatewayText(wire, at + 2, end, wire[at + 1] & 0x7f, origin),
    ].join(' '),
  end(wire, at, limit) {
    const length = at + 2 <= limit ? gatewayLength(wire, at + 2, limit, wire[at + 1] & 0x7f) : -1
    return length < 0 ? -1 : at + 2 + length
  },
}

/** Ports by their usual words, as WKS has them (RFC 1035 §3.4.2). */
const PORTS: Record<string, number> = {
  ftp: 21,
  ssh: 22,
  telnet: 23,
  smtp: 25,
  time: 37,
  domain: 53,
  http: 80,
  pop3: 110,
  nntp: 119,
  ntp: 123,
  imap: 143,
}
const PROTOCOLS = ['TCP', 'UDP']

/** A protocol, and a bit for each port (RFC 1035 §3.4.2), to the end of the record. */
export const wellKnownServices: FieldKind = {
  read(cursor, out) {
    const token = cursor.take('the protocol')
    if (token < 0) return false
    const word = PROTOCOLS.indexOf(cursor.word(token).toUpperCase())
    const protocol = word >= 0 ? [6, 17][word] : cursor.number(token)
    if (protocol < 0 || protocol > 255)
      return cursor.fail('bad-value', token, 'not a protocol', 'TCP, UDP, or a number from 0 to 255')
    out.u8(protocol)
    const ports: number[] = []
    for (; cursor.at < cursor.count; cursor.at++) {
      const port = PORTS[cursor.word(cursor.at).toLowerCase()] ?? cursor.number(cursor.at)
      if (port < 0 || port > 65_535)
        return cursor.fail('bad-value', cursor.at, 'not a port', 'a number from 0 to 65535')
      ports.push(port)
    }
    putBits(out, ports)
    return true
  },
  text: (wire, at, end) => [wire[at], ...bitsIn(wire, at + 1, end)].join(' '),
  end: (_wire, at, limit) => (at < limit && limit - at - 1 <= 8192 ? limit : -1),
}

/** A bit for each type below 128 (RFC 2535 §5.2), to the end of the record. */
export const typeBits: FieldKind = {
  read(cursor, out) {
    const types: number[] = []
    for (; cursor.at < cursor.count; cursor.at++) {
      const type = parseType(cursor.word(cursor.at))
      if (type === undefined || type > 127)
        return cursor.fail('bad-value', cursor.at, 'not a record type below 128', 'types such as A, MX or TYPE99')
      types.push(type)
    }
    putBits(out, types)
    return true
  },
  text: (wire, at, end) => bitsIn(wire, at, end).map(typeText).join(' '),
  end: (_wire, at, limit) => (limit - at <= 16 ? limit : -1),
}

function putBits(out: OctetSink, set: readonly number[]): void {
  const bits = new Uint8Array(set.length === 0 ? 0 : (Math.max(...set) >> 3) + 1)
  for (const each of set) bits[each >> 3] |= 0x80 >> (each & 7)
  out.put(bits)
}

function bitsIn(wire: Uint8Array, at: number, end: number): number[] {
  const set: number[] = []
  for (let bit = 0; bit < (end - at) * 8; bit++) if (wire[at + (bit >> 3)] & (0x80 >> (bit & 7))) set.push(bit)
  return set
}

/** `0x47.0005.80…`: an NSAP address (RFC 1706 §5); dots say nothing. */
export const nsapAddress: FieldKind = {
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const word = wordAt(cursor, token)
    const octets = /^0x[0-9a-f.]+$/i.test(word) ? parseHex(word.slice(2).replaceAll('.', '')) : undefined
    if (!octets?.length)
      return cursor.fail('bad-value', token, `not ${label}`, '0x and hexadecimal digits, two for each octet')
    out.put(octets)
    return true
  },
  text: (wire, at, end) => `0x${hexText(wire.subarray(at, end))}`,
  end: (_wire, at, limit) => (limit > at ? limit : -1),
}

/** A size or precision in metres as RFC 1876 §2 packs it: a digit and a power of ten, of centimetres. */
function packMetres(metres: number): number {
  let centimetres = Math.round(metres * 100)
  let power = 0
  while (centimetres >= 10 && power < 9) {
    centimetres = Math.floor(centimetres / 10)
    power++
  }
  return (centimetres << 4) | power
}

function metresText(packed: number): string {
  const centimetres = (packed >> 4) * 10 ** (packed & 15)
  return `${centimetres % 100 === 0 ? centimetres / 100 : (centimetres / 100).toFixed(2)}m`
}

const EQUATOR = 2 ** 31
const LEAST_ALTITUDE = 10_000_000

/** A place on the earth (RFC 1876 §3): `51 30 12.748 N 0 7 39.612 W 0.00m 10m 100m 10m`. */
export const place: FieldKind = {
  read(cursor, out) {
    const angle = (positive: string, negative: string, most: number): number | undefined => {
      const numbers: number[] = []
      for (; cursor.at < cursor.count; cursor.at++) {
        const word = cursor.word(cursor.at)
        if (word === positive || word === negative) {
          const [degrees = -1, minutes = 0, seconds = 0] = numbers
          const value = Math.round(((degrees * 60 + minutes) * 60 + seconds) * 1000)
          if (degrees < 0 || minutes > 59 || seconds >= 60 || value > most * 3_600_000) break
          cursor.at++
          return EQUATOR + (word === positive ? value : -value)
        }
        if (numbers.length === 3 || !(numbers.length === 2 ? /^0*\d{1,2}(\.\d{1,3})?$/ : /^0*\d{1,3}$/).test(word))
          break
        numbers.push(Number(word))
      }
      cursor.fail(
        'bad-value',
        Math.min(cursor.at, cursor.count),
        `not a ${positive === 'N' ? 'latitude' : 'longitude'}`,
        `degrees, minutes, seconds, then ${positive} or ${negative}, as in 51 30 12.748 ${positive}`,
      )
      return undefined
    }
    const latitude = angle('N', 'S', 90)
    const longitude = latitude === undefined ? undefined : angle('E', 'W', 180)
    if (longitude === undefined) return false
    const metres: number[] = []
    for (; cursor.at < cursor.count && metres.length < 4; cursor.at++) {
      const match = /^(-?\d{1,8}(?:\.\d{1,2})?)m?$/.exec(cursor.word(cursor.at))
      const value = Number(match?.[1])
      // The altitude, then sizes (RFC 1876 §2).
      const fits = metres.length === 0 ? value >= -100_000 && value <= 42_849_672.95 : value >= 0 && value <= 90_000_000
      if (!match || !fits)
        return cursor.fail(
          'bad-value',
          cursor.at,
          'not a number of metres',
          'metres, with at most two decimals, as in 10m; an altitude up to 42849672.95m, a size up to 90000000m',
        )
      metres.push(value)
    }
    if (metres.length === 0) return cursor.take('the altitude') >= 0
    const [altitude, size = 1, horizontal = 10_000, vertical = 10] = metres
    for (const each of [0, packMetres(size), packMetres(horizontal), packMetres(vertical)]) out.u8(each)
    out.u32(latitude!)
    out.u32(longitude)
    out.u32(Math.round(altitude * 100) + LEAST_ALTITUDE)
    return true
  },
  text(wire, at) {
    const angle = (value: number, positive: string, negative: string): string => {
      const thousandths = Math.abs(value - EQUATOR)
      return `${Math.floor(thousandths / 3_600_000)} ${Math.floor(thousandths / 60_000) % 60} ${((thousandths % 60_000) / 1000).toFixed(3)} ${value >= EQUATOR ? positive : negative}`
    }
    const altitude = ((u32At(wire, at + 12) - LEAST_ALTITUDE) / 100).toFixed(2)
    return [
      angle(u32At(wire, at + 4), 'N', 'S'),
      angle(u32At(wire, at + 8), 'E', 'W'),
      `${altitude}m`,
      ...[1, 2, 3].map((i) => metresText(wire[at + i])),
    ].join(' ')
  },
  end: (wire, at, limit) => (at + 16 <= limit && wire[at] === 0 ? at + 16 : -1),
}

/** Service parameters by name (RFC 9460 §14.3.2, RFC 9461, RFC 9540; 9 and 10 as registered for TLS key shares and DNS over CoAP). */
const PARAMETERS = [
  'mandatory',
  'alpn',
  'no-default-alpn',
  'port',
  'ipv4hint',
  'ech',
  'ipv6hint',
  'dohpath',
  'ohttp',
  'tls-supported-groups',
  'docpath',
]
/** From this one on, not every server knows the name of a key. `key7` and so on are known to all: so they are written. */
const LATE = 7
const keyText = (key: number): string => (key < LATE ? PARAMETERS[key] : `key${key}`)
function parseKey(text: string): number {
  const known = PARAMETERS.indexOf(text)
  if (known >= 0) return known
  const number = /^key(0|[1-9]\d{0,4})$/.exec(text)
  return number && Number(number[1]) < 65_535 ? Number(number[1]) : -1
}

/** A comma-separated list whose items may hold commas behind a backslash (RFC 9460 appendix A.1). */
function splitList(octets: Uint8Array): Uint8Array[] {
  const items: OctetSink[] = [new OctetSink(16)]
  for (let i = 0; i < octets.length; i++) {
    if (octets[i] === 0x2c) items.push(new OctetSink(16))
    else {
      if (octets[i] === 0x5c && i + 1 < octets.length) i++
      items[items.length - 1].u8(octets[i])
    }
  }
  return items.map((item) => item.taken())
}

const joined = (parts: Uint8Array[]): Uint8Array => {
  const out = new OctetSink(32)
  for (const part of parts) out.put(part)
  return out.taken()
}
const two = (value: number): Uint8Array => new Uint8Array([value >> 8, value & 255])

/** A parameter's value in wire octets, or undefined where the text does not fit the key. */
function parameterValue(key: number, value: Uint8Array | undefined): Uint8Array | undefined {
  const text = value && latin1Of(value, 0, value.length)
  if (key === 2 || key === 8) return value === undefined ? new Uint8Array(0) : undefined
  if (key > 10 || (key === 10 && !value?.length)) return value ?? new Uint8Array(0)
  if (value === undefined || text === undefined || value.length === 0) return undefined
  if (key === 0) {
    const keys = text.split(',').map(parseKey)
    return keys.some((each) => each <= 0) || new Set(keys).size !== keys.length
      ? undefined
      : joined(keys.sort((a, b) => a - b).map(two))
  }
  if (key === 9) {
    const groups = text.split(',').map((each) => (/^\d{1,5}$/.test(each) && Number(each) <= 65_535 ? Number(each) : -1))
    return groups.includes(-1) || new Set(groups).size !== groups.length ? undefined : joined(groups.map(two))
  }
  if (key === 1 || key === 10) {
    const items = splitList(value)
    return items.some((item) => item.length === 0 || item.length > 255)
      ? undefined
      : joined(items.flatMap((item) => [new Uint8Array([item.length]), item]))
  }
  if (key === 3) return /^\d{1,5}$/.test(text) && Number(text) <= 65_535 ? two(Number(text)) : undefined
  if (key === 5) return parseBase64(text)
  if (key === 7) return value
  const addresses = text.split(',').map(parseAddress)
  return addresses.some((address) => address?.length !== (key === 4 ? 4 : 16))
    ? undefined
    : joined(addresses as Uint8Array[])
}

/** Text of a parameter's value without its quotes, or undefined for none. The octets have been found to fit. */
function parameterText(key: number, wire: Uint8Array): string | undefined {
  const inQuotes = (octets: Uint8Array): string => stringText(octets, 0, octets.length)
  if (key === 2 || key === 8 || wire.length === 0) return undefined
  if (key === 0) return Array.from({ length: wire.length / 2 }, (_, i) => keyText(u16At(wire, 2 * i))).join(',')
  if (key === 3) return String(u16At(wire, 0))
  if (key === 5) return base64Text(wire)
  if (key === 4 || key === 6) {
    const size = key === 4 ? 4 : 16
    return Array.from({ length: wire.length / size }, (_, i) =>
      addressText(wire.subarray(i * size, (i + 1) * size)),
    ).join(',')
  }
  if (key !== 1) return inQuotes(wire)
  const out = new OctetSink(32)
  for (let at = 0; at < wire.length; at += 1 + wire[at]) {
    if (at > 0) out.u8(0x2c)
    for (const octet of wire.subarray(at + 1, at + 1 + wire[at])) {
      if (octet === 0x2c || octet === 0x5c) out.u8(0x5c)
      out.u8(octet)
    }
  }
  return inQuotes(out.taken())
}

function parameterFits(key: number, wire: Uint8Array): boolean {
  if (key === 2 || key === 8) return wire.length === 0
  if (key > 10 || (key === 10 && wire.length === 0)) return true
  if (wire.length === 0) return false
  if (key === 0 || key === 9) return wire.length % 2 === 0
  if (key === 3) return wire.length === 2
  if (key === 4 || key === 6) return wire.length % (key === 4 ? 4 : 16) === 0
  if (key !== 1 && key !== 10) return true
  let at = 0
  while (at < wire.length && wire[at] > 0) at += 1 + wire[at]
  return at === wire.length
}

/** Notes a parameter whose spelling is not read by all servers alike: a late name, or an early key by its number. */
function noteSpelling(cursor: TokenCursor, first: number, last: number, key: number, octets: Uint8Array): void {
  const value = parameterText(key, octets)
  const end = cursor.ends[last] + cursor.quoted[last]
  const name = PARAMETERS[key]
  cursor.notes.push({
    kind: 'parameter-name',
    start: cursor.starts[first],
    end,
    value: cursor.text(first),
    message:
      key < LATE
        ? `key${key} has a name, ${name}, and its value is read as octets by some servers, as text by others`
        : `not every server knows ${name}`,
    wanted: value === undefined ? keyText(key) : `${keyText(key)}=${value}`,
    read: true,
  })
}

/** Service parameters (RFC 9460 §2.1), to the end of the record: `alpn=h2,h3 port=8443`. On the wire they are in the order of their keys, each once. */
export const parameters: FieldKind = {
  isText: true,
  read(cursor, out) {
    const found = new Map<number, Uint8Array>()
    while (cursor.at < cursor.count) {
      const token = cursor.at++
      const word = wordAt(cursor, token)
      const equals = word.indexOf('=')
      const key = parseKey(equals < 0 ? word : word.slice(0, equals))
      if (key < 0 || cursor.quoted[token])
        return cursor.fail(
          'bad-value',
          token,
          'not a service parameter',
          `one of ${PARAMETERS.join(', ')}, or key with a number`,
        )
      let value: Uint8Array | undefined
      if (equals >= 0) {
        // A value in quotes is a token of its own, directly behind the sign.
        const quoted =
          equals === word.length - 1 &&
          cursor.at < cursor.count &&
          cursor.quoted[cursor.at] === 1 &&
          cursor.starts[cursor.at] - 1 === cursor.ends[token]
        const whole = quoted ? cursor.unescaped(cursor.at++) : cursor.unescaped(token)
        if (!whole) return false
        value = quoted ? whole : whole.subarray(equals + 1)
      }
      // By its number a key has its octets as value, whatever its name's form is (RFC 9460 §2.1).
      const byNumber = /^key\d/.test(word)
      const raw = value ?? new Uint8Array(0)
      const octets = byNumber ? (parameterFits(key, raw) ? raw : undefined) : parameterValue(key, value)
      if (octets && byNumber === key < LATE && (byNumber || PARAMETERS[key] !== undefined))
        noteSpelling(cursor, token, cursor.at - 1, key, octets)
      if (!octets)
        return cursor.fail(
          'bad-value',
          token,
          `the value of ${keyText(key)} does not fit`,
          WANTED_PARAMETER[key] ?? 'a value that fits the key',
        )
      if (found.has(key))
        return cursor.fail('bad-value', token, `${keyText(key)} is there twice`, 'each parameter once')
      found.set(key, octets)
    }
    const mandatory = found.get(0)
    for (let i = 0; mandatory && i < mandatory.length; i += 2)
      if (!found.has(u16At(mandatory, i)))
        return cursor.fail(
          'bad-value',
          cursor.count - 1,
          `${keyText(u16At(mandatory, i))} is mandatory and not there`,
          'each mandatory parameter with its value',
        )
    for (const [key, octets] of [...found].sort((a, b) => a[0] - b[0])) {
      out.u16(key)
      out.u16(octets.length)
      out.put(octets)
    }
    return true
  },
  text(wire, at, end) {
    const items: string[] = []
    for (let here = at; here < end; here += 4 + u16At(wire, here + 2)) {
      const key = u16At(wire, here)
      const value = parameterText(key, wire.subarray(here + 4, here + 4 + u16At(wire, here + 2)))
      items.push(value === undefined ? keyText(key) : `${keyText(key)}=${value}`)
    }
    return items.join(' ')
  },
  end(wire, at, limit) {
    let here = at
    let last = -1
    while (here < limit) {
      if (here + 4 > limit) return -1
      const key = u16At(wire, here)
      const next = here + 4 + u16At(wire, here + 2)
      if (key <= last || next > limit || !parameterFits(key, wire.subarray(here + 4, next))) return -1
      last = key
      here = next
    }
    return here
  },
}

const WANTED_PARAMETER: Record<number, string> = {
  0: 'other parameters’ names, joined by commas',
  1: 'protocol names, joined by commas, as in h2,h3',
  2: 'no value',
  3: 'a port from 0 to 65535',
  4: 'IPv4 addresses, joined by commas',
  5: 'base64',
  6: 'IPv6 addresses, joined by commas',
  8: 'no value',
  9: 'numbers of groups, each once, joined by commas, as in 29,23',
  10: 'parts of a path, joined by commas, or none',
}

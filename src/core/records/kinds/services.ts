/** Sets of bits: ports, and types of old. */
import type { OctetSink } from '../../names/octets.ts'
import type { FieldKind } from '../fields.ts'
import { parseType, typeText } from '../type-names.ts'

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
    const protocol = word >= 0 ? [6, 17][word]! : cursor.number(token)
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
  // An octet of zeros at the end says nothing, and has no text.
  end: (wire, at, limit) =>
    at < limit && limit - at - 1 <= 8192 && (limit === at + 1 || wire[limit - 1] !== 0) ? limit : -1,
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
  for (const each of set) bits[each >> 3]! |= 0x80 >> (each & 7)
  out.put(bits)
}

function bitsIn(wire: Uint8Array, at: number, end: number): number[] {
  const set: number[] = []
  for (let bit = 0; bit < (end - at) * 8; bit++) if (wire[at + (bit >> 3)]! & (0x80 >> (bit & 7))) set.push(bit)
  return set
}

/** Host identities, gateways and relays. */
import { addressText, parseAddress } from '../../names/address.ts'
import { wireNameLength, wireToName } from '../../names/name.ts'
import { type OctetSink, u16At } from '../../names/octets.ts'
import { base64Text, hexText, parseBase64, parseHex } from '../encodings.ts'
import { type FieldKind, name, readNameToken } from '../fields.ts'
import type { TokenCursor } from '../tokens.ts'
import { base64Possible, wordAt } from './octets.ts'

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
    const key = hit + wire[at]!
    const servers = key + u16At(wire, at + 2)
    const names: string[] = []
    for (let here = servers; here < end; here += wireNameLength(wire, here)) names.push(wireToName(wire, here, origin))
    return [wire[at + 1], hexText(wire.subarray(hit, key)), base64Text(wire.subarray(key, servers)), ...names].join(' ')
  },
  end(wire, at, limit) {
    if (at + 4 > limit || wire[at] === 0 || u16At(wire, at + 2) === 0) return -1
    let here = at + 4 + wire[at]! + u16At(wire, at + 2)
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
  const end = kind < 3 ? at + [0, 4, 16][kind]! : kind === 3 ? name.end(wire, at, limit) : -1
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
    if (!readGateway(cursor, out, numbers[1]!, 'a gateway')) return false
    if ((numbers[2] === 0) === cursor.at < cursor.count)
      return cursor.fail(
        'bad-value',
        cursor.at,
        numbers[2] === 0
          ? 'the algorithm is 0 (no key), but there is a key'
          : `the algorithm is ${numbers[2]}, but there is no key`,
        numbers[2] === 0 ? 'no key, or the algorithm of the key' : 'the public key, or the algorithm 0',
      )
    return base64Possible.read(cursor, out, 'the public key')
  },
  text(wire, at, end, origin) {
    const kind = wire[at + 1]!
    const key = at + 3 + gatewayLength(wire, at + 3, end, kind)
    const words = [wire[at], kind, wire[at + 2], gatewayText(wire, at + 3, key, kind, origin)]
    if (key < end) words.push(base64Text(wire.subarray(key, end)))
    return words.join(' ')
  },
  end(wire, at, limit) {
    const length = at + 3 <= limit ? gatewayLength(wire, at + 3, limit, wire[at + 1]!) : -1
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
      wire[at + 1]! >> 7,
      wire[at + 1]! & 0x7f,
      gatewayText(wire, at + 2, end, wire[at + 1]! & 0x7f, origin),
    ].join(' '),
  end(wire, at, limit) {
    const length = at + 2 <= limit ? gatewayLength(wire, at + 2, limit, wire[at + 1]! & 0x7f) : -1
    return length < 0 ? -1 : at + 2 + length
  },
}

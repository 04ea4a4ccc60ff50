/** Service parameters of SVCB and HTTPS records. */
import { addressText, parseAddress } from '../../names/address.ts'
import { latin1Of, OctetSink, u16At } from '../../names/octets.ts'
import { base64Text, parseBase64 } from '../encodings.ts'
import { type FieldKind, stringText } from '../fields.ts'
import type { TokenCursor } from '../tokens.ts'
import { wordAt } from './octets.ts'

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
const keyText = (key: number): string => (key < LATE ? PARAMETERS[key]! : `key${key}`)
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
      items[items.length - 1]!.u8(octets[i]!)
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
  for (let at = 0; at < wire.length; at += 1 + wire[at]!) {
    if (at > 0) out.u8(0x2c)
    for (const octet of wire.subarray(at + 1, at + 1 + wire[at]!)) {
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
  while (at < wire.length && wire[at]! > 0) at += 1 + wire[at]!
  return at === wire.length
}

/** Notes a parameter whose spelling is not read by all servers alike: a late name, or an early key by its number. */
function noteSpelling(cursor: TokenCursor, first: number, last: number, key: number, octets: Uint8Array): void {
  const value = parameterText(key, octets)
  const end = cursor.ends[last]! + cursor.quoted[last]!
  const name = PARAMETERS[key]
  cursor.notes.push({
    kind: 'parameter-name',
    start: cursor.starts[first]!,
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
          cursor.starts[cursor.at]! - 1 === cursor.ends[token]
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
      if (found.has(key)) return cursor.fail('bad-value', token, `${keyText(key)} appears twice`, 'each parameter once')
      found.set(key, octets)
    }
    const mandatory = found.get(0)
    for (let i = 0; mandatory && i < mandatory.length; i += 2)
      if (!found.has(u16At(mandatory, i)))
        return cursor.fail(
          'bad-value',
          cursor.count - 1,
          `${keyText(u16At(mandatory, i))} is mandatory but missing`,
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
  0: 'other parameters’ names, separated by commas',
  1: 'protocol names, separated by commas, as in h2,h3',
  2: 'no value',
  3: 'a port from 0 to 65535',
  4: 'IPv4 addresses, separated by commas',
  5: 'base64',
  6: 'IPv6 addresses, separated by commas',
  8: 'no value',
  9: 'numbers of groups, each once, separated by commas, as in 29,23',
  10: 'parts of a path, separated by commas, or none',
}

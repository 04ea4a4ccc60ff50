/** IPv4 and IPv6 addresses: text from octets and octets from text (RFC 1035 §3.4.1, RFC 4291 §2.2, RFC 5952). */
import { octetsOf } from './octets.ts'

/**
 * Reads a dotted quad from `start` up to `end` into four octets of `out` at `at`.
 * Returns whether it was one: four decimal numbers up to 255, without leading zeros, nothing else.
 */
export function readIPv4(octets: Uint8Array, start: number, end: number, out: Uint8Array, at: number): boolean {
  let value = -1
  let part = 0
  for (let i = start; i < end; i++) {
    const c = octets[i]!
    if (c === 0x2e) {
      if (value < 0 || part === 3) return false
      out[at + part++] = value
      value = -1
    } else {
      const digit = c - 0x30
      if (digit < 0 || digit > 9 || value === 0) return false
      value = value < 0 ? digit : value * 10 + digit
      if (value > 255) return false
    }
  }
  if (part !== 3 || value < 0) return false
  out[at + 3] = value
  return true
}

/** Reads an IPv6 address from `start` up to `end` into sixteen octets of `out` at `at`; returns whether it was one (RFC 4291 §2.2, all three forms). */
export function readIPv6(octets: Uint8Array, start: number, end: number, out: Uint8Array, at: number): boolean {
  let groups = 0
  let gap = -1
  let i = start
  if (octets[i] === 0x3a) {
    if (octets[i + 1] !== 0x3a || end - i < 2) return false
    gap = 0
    i += 2
  }
  while (i < end) {
    if (groups === 8) return false
    let value = 0
    const from = i
    while (i < end) {
      const c = octets[i]! | 0x20
      const digit =
        octets[i]! >= 0x30 && octets[i]! <= 0x39 ? octets[i]! - 0x30 : c >= 0x61 && c <= 0x66 ? c - 0x57 : -1
      if (digit < 0) break
      value = value * 16 + digit
      i++
    }
    if (i < end && octets[i] === 0x2e) {
      if (groups > 6 || !readIPv4(octets, from, end, out, at + groups * 2)) return false
      groups += 2
      i = end
      break
    }
    if (i === from || i - from > 4) return false
    out[at + groups * 2] = value >> 8
    out[at + groups * 2 + 1] = value & 0xff
    groups++
    if (i === end) break
    if (octets[i] !== 0x3a) return false
    i++
    if (i === end) return false
    if (octets[i] === 0x3a) {
      if (gap >= 0) return false
      gap = groups
      i++
    }
  }
  if (gap < 0) return groups === 8
  if (groups === 8) return false
  const after = (groups - gap) * 2
  out.copyWithin(at + 16 - after, at + gap * 2, at + gap * 2 + after)
  out.fill(0, at + gap * 2, at + 16 - after)
  return true
}

/** Four or sixteen octets of an address in text, or undefined if it is none. */
export function parseAddress(text: string): Uint8Array | undefined {
  const octets = octetsOf(text)
  const v6 = text.includes(':')
  const out = new Uint8Array(v6 ? 16 : 4)
  return (v6 ? readIPv6 : readIPv4)(octets, 0, octets.length, out, 0) ? out : undefined
}

/** Text of an address of four or sixteen octets; IPv6 in the one recommended form (RFC 5952 §4). */
export function addressText(octets: Uint8Array): string {
  if (octets.length === 4) return octets.join('.')
  const groups = Array.from({ length: 8 }, (_, i) => (octets[2 * i]! << 8) | octets[2 * i + 1]!)
  if (groups.slice(0, 5).every((g) => g === 0) && groups[5] === 0xffff) return '::ffff:' + octets.slice(12).join('.')
  let best = { start: -1, length: 1 }
  for (let i = 0; i < 8; i++) {
    let length = 0
    while (i + length < 8 && groups[i + length] === 0) length++
    if (length > best.length) best = { start: i, length }
    if (length > 0) i += length
  }
  const hex = (from: number, to: number) =>
    groups
      .slice(from, to)
      .map((g) => g.toString(16))
      .join(':')
  return best.start < 0 ? hex(0, 8) : `${hex(0, best.start)}::${hex(best.start + best.length, 8)}`
}

/** Octets as text and back, one character an octet, and the folding of letter case (RFC 4343 §3: ASCII letters only). */

/** FOLD[octet]: the octet with A–Z made a–z. */
export const FOLD = new Uint8Array(256)
for (let i = 0; i < 256; i++) FOLD[i] = i >= 0x41 && i <= 0x5a ? i + 0x20 : i

const utf8 = new TextEncoder()
const strictUtf8 = new TextDecoder('utf-8', { fatal: true })

/** The UTF-8 octets of a text. */
export function octetsOf(text: string): Uint8Array {
  if (text.length > 64) return utf8.encode(text)
  // Most texts are short and plain: calling the encoder costs more than they do.
  const octets = new Uint8Array(text.length)
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i)
    if (code > 0x7f) return utf8.encode(text)
    octets[i] = code
  }
  return octets
}

/** Octets as text: UTF-8 where they are that, else one character an octet (Latin-1). Never fails. */
export function textOf(octets: Uint8Array): string {
  try {
    return strictUtf8.decode(octets)
  } catch {
    return latin1Of(octets, 0, octets.length)
  }
}

/** One character an octet, from `start` up to (not including) `end`. */
export function latin1Of(octets: Uint8Array, start: number, end: number): string {
  let text = ''
  if (end - start <= 64) {
    for (let i = start; i < end; i++) text += String.fromCharCode(octets[i]!)
    return text
  }
  for (let at = start; at < end; at += 8192)
    text += String.fromCharCode(...octets.subarray(at, Math.min(end, at + 8192)))
  return text
}

/** Whether two stretches of octets are equal. */
export function sameOctets(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

/** Octets that grow as they are written; numbers go in network order. */
export class OctetSink {
  octets: Uint8Array
  length = 0
  constructor(capacity = 64) {
    this.octets = new Uint8Array(capacity)
  }
  /** Makes room for `more` octets behind the present end. */
  room(more: number): void {
    const needed = this.length + more
    if (needed <= this.octets.length) return
    let capacity = this.octets.length * 2
    while (capacity < needed) capacity *= 2
    const grown = new Uint8Array(capacity)
    grown.set(this.octets.subarray(0, this.length))
    this.octets = grown
  }
  u8(value: number): void {
    this.room(1)
    this.octets[this.length++] = value
  }
  u16(value: number): void {
    this.room(2)
    this.octets[this.length++] = value >>> 8
    this.octets[this.length++] = value
  }
  u32(value: number): void {
    this.u16(value >>> 16)
    this.u16(value & 0xffff)
  }
  put(octets: Uint8Array, start = 0, end: number = octets.length): void {
    this.room(end - start)
    for (let i = start; i < end; i++) this.octets[this.length++] = octets[i]!
  }
  /** A copy of what was written, from `start`. */
  taken(start = 0): Uint8Array {
    return this.octets.slice(start, this.length)
  }
}

export const u16At = (octets: Uint8Array, at: number): number => (octets[at]! << 8) | octets[at + 1]!
export const u32At = (octets: Uint8Array, at: number): number =>
  ((octets[at]! << 24) | (octets[at + 1]! << 16) | (octets[at + 2]! << 8) | octets[at + 3]!) >>> 0

/** A column of numbers with room for `capacity` of them, its present ones kept. */
export function wider<T extends Int32Array | Uint32Array | Uint16Array | Uint8Array>(column: T, capacity: number): T {
  const fresh = new (column.constructor as new (n: number) => T)(capacity)
  fresh.set(column)
  return fresh
}

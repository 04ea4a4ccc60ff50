/** Record data as the values in it: so that nobody else counts octets. Each takes data that fits its type. */
import { latin1Of, octetsOf, u16At, u32At } from '../names/octets.ts'
import { MAX_STRING } from './fields.ts'
import type { Rdata } from './rdata.ts'

export interface MxData {
  preference: number
}
/** RFC 1035 §3.3.9. */
export const mx = (data: Rdata): MxData => ({ preference: u16At(data, 0) })

export interface SrvData {
  priority: number
  weight: number
  port: number
}
/** RFC 2782. */
export const srv = (data: Rdata): SrvData => ({
  priority: u16At(data, 0),
  weight: u16At(data, 2),
  port: u16At(data, 4),
})

/** Where the five numbers of SOA begin, behind its two names. */
const numbersOf = (data: Rdata): number => data.length - 20

export interface SoaData {
  serial: number
  /** Seconds. */
  refresh: number
  retry: number
  expire: number
  minimum: number
}
/** RFC 1035 §3.3.13. */
export function soa(data: Rdata): SoaData {
  const at = numbersOf(data)
  return {
    serial: u32At(data, at),
    refresh: u32At(data, at + 4),
    retry: u32At(data, at + 8),
    expire: u32At(data, at + 12),
    minimum: u32At(data, at + 16),
  }
}

/** The same SOA data with another serial. */
export function withSerial(data: Rdata, serial: number): Rdata {
  const changed = data.slice()
  const at = numbersOf(data)
  for (let i = 0; i < 4; i++) changed[at + i] = (serial >>> (24 - 8 * i)) & 0xff
  return changed
}

/** The priority of SVCB and HTTPS: 0 in alias mode (RFC 9460 §2.4.1). */
export const svcbPriority = (data: Rdata): number => u16At(data, 0)

/** The type that a signature covers (RFC 4034 §3.1.1). */
export const typeCovered = (data: Rdata): number => u16At(data, 0)

export interface Nsec3Data {
  iterations: number
  /** Octets of the salt. */
  salt: number
}
/** RFC 5155 §4.2. */
export const nsec3 = (data: Rdata): Nsec3Data => ({ iterations: u16At(data, 2), salt: data[4]! })

/** The strings of a text record, one character an octet (RFC 1035 §3.3.14). */
export function strings(data: Rdata): string[] {
  const found: string[] = []
  for (let at = 0; at < data.length; at += data[at]! + 1) found.push(latin1Of(data, at + 1, at + 1 + data[at]!))
  return found
}

/** The same joined without anything between them (RFC 7208 §3.3). */
export function joined(data: Rdata): string {
  let text = ''
  for (let at = 0; at < data.length; at += data[at]! + 1) text += latin1Of(data, at + 1, at + 1 + data[at]!)
  return text
}

/** A text as one or more character-strings of at most 255 octets. */
export function textData(text: string): Rdata {
  const octets = octetsOf(text)
  const count = Math.max(1, Math.ceil(octets.length / MAX_STRING))
  const data = new Uint8Array(octets.length + count)
  for (let i = 0; i < count; i++) {
    const part = octets.subarray(i * MAX_STRING, (i + 1) * MAX_STRING)
    data[i * (MAX_STRING + 1)] = part.length
    data.set(part, i * (MAX_STRING + 1) + 1)
  }
  return data
}

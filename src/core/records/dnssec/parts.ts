/** What DNSKEY and RRSIG records are made of. */
import { wireNameLength } from '../../names/name.ts'
import { u16At, u32At } from '../../names/octets.ts'
import type { Rdata } from '../rdata.ts'

/** The key tag of a DNSKEY record's data (RFC 4034 appendix B). */
export function keyTag(key: Rdata): number {
  let sum = 0
  for (let i = 0; i < key.length; i++) sum += i & 1 ? key[i]! : key[i]! << 8
  return (sum + (sum >>> 16)) & 0xffff
}

export interface Signature {
  covered: number
  algorithm: number
  labels: number
  originalTtl: number
  /** Seconds since 1970, on 32 bits. */
  expiration: number
  inception: number
  tag: number
  /** Where the signer's name begins and the signature itself. */
  signerAt: number
  signatureAt: number
}

export function signatureOf(rrsig: Rdata): Signature {
  return {
    covered: u16At(rrsig, 0),
    algorithm: rrsig[2]!,
    labels: rrsig[3]!,
    originalTtl: u32At(rrsig, 4),
    expiration: u32At(rrsig, 8),
    inception: u32At(rrsig, 12),
    tag: u16At(rrsig, 16),
    signerAt: 18,
    signatureAt: 18 + wireNameLength(rrsig, 18),
  }
}

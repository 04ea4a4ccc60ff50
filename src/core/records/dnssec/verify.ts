/** Keys, digests and signatures of DNSSEC: what fits what (RFC 4034, RFC 5702, RFC 6605, RFC 8080). To be imported only where it is needed: cryptography takes a while to load. */
import { createHash, createPublicKey, type KeyObject, verify } from 'node:crypto'
import { foldName, labelsOf, type Name, nameToWire } from '../../names/name.ts'
import { FOLD, sameOctets, u16At } from '../../names/octets.ts'
import { canonicalRdata, type Rdata } from '../rdata.ts'
import { keyTag, signatureOf } from './parts.ts'

const wireOf = (name: Name): Uint8Array => nameToWire(foldName(name)) as Uint8Array

const DIGESTS: Record<number, string> = { 1: 'sha1', 2: 'sha256', 4: 'sha384' }

/** Whether a DS record fits a DNSKEY at that name; undefined for a digest that is not known here. */
export function dsFits(ds: Rdata, key: Rdata, owner: Name): boolean | undefined {
  if (u16At(ds, 0) !== keyTag(key) || ds[2] !== key[3]) return false
  const digest = DIGESTS[ds[3]!]
  if (!digest) return undefined
  return sameOctets(createHash(digest).update(wireOf(owner)).update(key).digest(), ds.subarray(4))
}

const url = (octets: Uint8Array): string => Buffer.from(octets).toString('base64url')

/** The public key of a DNSKEY record; undefined for an algorithm, or a key, that is not known here. */
function publicKeyOf(key: Rdata): KeyObject | undefined {
  const octets = key.subarray(4)
  const jwk = (() => {
    switch (key[3]) {
      case 5:
      case 7:
      case 8:
      case 10: {
        const long = octets[0] === 0
        const from = long ? 3 : 1
        const length = long ? u16At(octets, 1) : octets[0]!
        return { kty: 'RSA', e: url(octets.subarray(from, from + length)), n: url(octets.subarray(from + length)) }
      }
      case 13:
        return { kty: 'EC', crv: 'P-256', x: url(octets.subarray(0, 32)), y: url(octets.subarray(32)) }
      case 14:
        return { kty: 'EC', crv: 'P-384', x: url(octets.subarray(0, 48)), y: url(octets.subarray(48)) }
      case 15:
        return { kty: 'OKP', crv: 'Ed25519', x: url(octets) }
      case 16:
        return { kty: 'OKP', crv: 'Ed448', x: url(octets) }
      default:
        return undefined
    }
  })()
  try {
    return jwk && createPublicKey({ key: jwk, format: 'jwk' })
  } catch {
    return undefined
  }
}

const HASHES: Record<number, string | null> = {
  5: 'sha1',
  7: 'sha1',
  8: 'sha256',
  10: 'sha512',
  13: 'sha256',
  14: 'sha384',
  15: null,
  16: null,
}

/**
 * Whether a signature (an RRSIG record's data) fits a record set and a key (RFC 4034 §3.1.8.1). Dates are not looked at. Undefined where the algorithm or the key
 * is not known here.
 */
export function signatureFits(
  rrsig: Rdata,
  owner: Name,
  type: number,
  data: readonly Rdata[],
  key: Rdata,
): boolean | undefined {
  const { algorithm, labels, originalTtl, signerAt, signatureAt } = signatureOf(rrsig)
  const publicKey = publicKeyOf(key)
  if (!publicKey || HASHES[algorithm] === undefined) return undefined
  const parts: Uint8Array[] = [
    rrsig.subarray(0, signerAt),
    rrsig.subarray(signerAt, signatureAt).map((octet) => FOLD[octet]!),
  ]
  const own = labelsOf(foldName(owner))
  const name = wireOf(
    own.length > labels
      ? `*.${own
          .slice(own.length - labels)
          .map((label) => `${label}.`)
          .join('')}`
      : owner,
  )
  const canonical = data.map((each) => canonicalRdata(type, each)).sort((a, b) => Buffer.compare(a, b))
  canonical.forEach((each, i) => {
    if (i > 0 && sameOctets(each, canonical[i - 1]!)) return
    const head = new DataView(new ArrayBuffer(10))
    head.setUint16(0, type)
    head.setUint16(2, 1)
    head.setUint32(4, originalTtl)
    head.setUint16(8, each.length)
    parts.push(name, new Uint8Array(head.buffer), each)
  })
  try {
    return verify(
      HASHES[algorithm],
      Buffer.concat(parts),
      { key: publicKey, dsaEncoding: 'ieee-p1363' },
      rrsig.subarray(signatureAt),
    )
  } catch {
    return false
  }
}

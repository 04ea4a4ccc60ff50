/** Digests, key tags and signatures against the standards' own examples. */
import { describe, expect, test } from 'vitest'
import { nameToWire } from '../../../src/core/names/name.ts'
import { keyTag, signatureOf } from '../../../src/core/records/dnssec/parts.ts'
import { dsFits, signatureFits } from '../../../src/core/records/dnssec/verify.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { parseType } from '../../../src/core/records/types.ts'

function data(type: string, text: string): Uint8Array {
  const parsed = parseRdata(parseType(type)!, text, new Uint8Array(1))
  if (!('wire' in parsed)) throw new Error(parsed.message)
  return parsed.wire
}

describe('DS and DNSKEY', () => {
  // RFC 4034 §5.4, RFC 4509 §2.3, RFC 6605 §6.1, RFC 8080 §6.1.
  const dskey =
    '256 3 5 AQOeiiR0GOMYkDshWoSKz9XzfwJr1AYtsmx3TGkJaNXVbfi/2pHm822aJ5iI9BMzNXxeYCmZDRD99WYwYqUSdjMmmAphXdvxegXd/M5+X7OrzKBaMbCVdFLUUh6DhweJBjEVv5f2wwjM9XzcnOf+EPbtG9DMBmADjFDc2w/rljwvFw=='
  const p256 = '257 3 13 GojIhhXUN/u4v54ZQqGSnyhWJwaubCvTmeexv7bR6edbkrSqQpF64cYbcB7wNcP+e+MAnLr+Wi9xMWyQLc8NAA=='
  const ed25519 = '257 3 15 l02Woi0iS8Aa25FQkUd9RMzZHJpBoRQwAQEX1SxZJA4='
  test.each<[string, string, number, string]>([
    ['dskey.example.com.', dskey, 60485, '60485 5 1 2BB183AF5F22588179A53B0A98631FAD1A292118'],
    ['dskey.example.com.', dskey, 60485, '60485 5 2 D4B7D520E7BB5F0F67674A0CCEB1E3E0614B93C4F9E99B8383F6A1E4469DA50A'],
    ['example.net.', p256, 55648, '55648 13 2 b4c8c1fe2e7477127b27115656ad6256f424625bf5c1e2770ce6d6e37df61d17'],
    ['Example.COM.', ed25519, 3613, '3613 15 2 3aa5ab37efce57f737fc1627013fee07bdf241bd10f3b1964ab55c78e79a304b'],
  ])('%s', (owner, key, tag, ds) => {
    expect(keyTag(data('DNSKEY', key))).toBe(tag)
    expect(dsFits(data('DS', ds), data('DNSKEY', key), owner)).toBe(true)
    expect(dsFits(data('DS', ds), data('DNSKEY', key), 'other.example.')).toBe(false)
    const broken = data('DS', ds)
    broken[broken.length - 1]! ^= 1
    expect(dsFits(broken, data('DNSKEY', key), owner)).toBe(false)
  })
  test('a digest that is not known is neither right nor wrong', () => {
    expect(dsFits(data('DS', '3613 15 9 00'), data('DNSKEY', ed25519), 'example.com.')).toBeUndefined()
  })
})

describe('RRSIG', () => {
  // RFC 6605 §6.1, RFC 8080 §6.1.
  test.each<[string, string, string, string, string[], string]>([
    [
      'ECDSA P-256',
      '257 3 13 GojIhhXUN/u4v54ZQqGSnyhWJwaubCvTmeexv7bR6edbkrSqQpF64cYbcB7wNcP+e+MAnLr+Wi9xMWyQLc8NAA==',
      'www.example.net.',
      'A',
      ['192.0.2.1'],
      'A 13 3 3600 20100909100439 20100812100439 55648 example.net. qx6wLYqmh+l9oCKTN6qIc+bw6ya+KJ8oMz0YP107epXAyGmt+3SNruPFKG7tZoLBLlUzGGus7ZwmwWep666VCw==',
    ],
    [
      'Ed25519',
      '257 3 15 l02Woi0iS8Aa25FQkUd9RMzZHJpBoRQwAQEX1SxZJA4=',
      'example.com.',
      'MX',
      ['10 mail.example.com.'],
      'MX 15 2 3600 1440021600 1438207200 3613 example.com. oL9krJun7xfBOIWcGHi7mag5/hdZrKWw15jPGrHpjQeRAvTdszaPD+QLs3fx8A4M3e23mRZ9VrbpMngwcrqNAg==',
    ],
  ])('%s', (_what, key, owner, type, values, signature) => {
    const rrsig = data('RRSIG', signature)
    const records = values.map((value) => data(type, value))
    const number = parseType(type)!
    expect(signatureOf(rrsig)).toMatchObject({
      covered: number,
      labels: owner.split('.').length - 1,
      originalTtl: 3600,
    })
    expect(signatureFits(rrsig, owner, number, records, data('DNSKEY', key))).toBe(true)
    // Neither letter case nor repeats change a set; other data does.
    expect(signatureFits(rrsig, owner.toUpperCase(), number, [...records, ...records], data('DNSKEY', key))).toBe(true)
    expect(
      signatureFits(
        rrsig,
        owner,
        number,
        [...records, data(type, values[0]!.replace(/1$|^10/, '2'))],
        data('DNSKEY', key),
      ),
    ).toBe(false)
    expect(signatureFits(rrsig, `a.${owner}`, number, records, data('DNSKEY', key))).toBe(false)
  })
  test('an algorithm that is not known is neither right nor wrong', () => {
    const rrsig = data('RRSIG', 'A 99 2 60 20300101000000 20200101000000 1 example. AAAA')
    expect(signatureFits(rrsig, 'a.example.', 1, [new Uint8Array(4)], data('DNSKEY', '257 3 99 AAAA'))).toBeUndefined()
    expect(nameToWire('example.')).toBeInstanceOf(Uint8Array)
  })
})

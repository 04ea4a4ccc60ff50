import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { nameToWire } from '../../../src/core/names/name.ts'
import { genericText, parseRdata, rdataKey, rdataText } from '../../../src/core/records/rdata.ts'
import { parseType, TYPE, typeRows, typeText } from '../../../src/core/records/types.ts'
import { VECTORS } from './vectors.ts'

const origin = nameToWire('hollowmere.example.') as Uint8Array
const hex = (octets: Uint8Array): string => Buffer.from(octets).toString('hex')

function read(type: string, text: string): Uint8Array {
  const parsed = parseRdata(parseType(type)!, text, origin)
  if (!('wire' in parsed)) throw new Error(`${parsed.kind}: ${parsed.message}`)
  return parsed.wire
}
const trouble = (type: string, text: string): string | undefined => {
  const parsed = parseRdata(parseType(type)!, text, origin)
  return 'kind' in parsed ? parsed.kind : undefined
}

describe('record data in text and octets', () => {
  test.each([
    ...VECTORS,
    ['CNAME', 'a', '01610a686f6c6c6f776d657265076578616d706c6500'] as const,
    ['NS', '@', '0a686f6c6c6f776d657265076578616d706c6500'] as const,
    ['TXT', '""', '00'] as const,
  ])('%s %s', (type, text, octets) => {
    const wire = read(type, text)
    if (octets !== undefined) expect(hex(wire)).toBe(octets)
    expect(hex(read(type, rdataText(parseType(type)!, wire)))).toBe(hex(wire))
    expect(hex(read(type, genericText(wire)))).toBe(hex(wire))
  })

  // RFC 3597 §5, its own examples.
  test.each([
    ['TYPE731', '\\# 6 abcdef (01 23\n45)', 'abcdef012345'],
    ['TYPE62347', '\\# 0', ''],
    ['A', '\\# 4 0A000001', '0a000001'],
  ])('%s %s in the generic form', (type, text, octets) => expect(hex(read(type, text))).toBe(octets))

  test.each([
    ['A', '192.0.2.1:80', 'bad-address'],
    ['A', '', 'missing-value'],
    ['A', '192.0.2.1 192.0.2.2', 'extra-value'],
    ['AAAA', '192.0.2.1', 'bad-address'],
    ['MX', 'mail', 'bad-number'],
    ['MX', '65536 mail', 'bad-number'],
    ['MX', '10', 'missing-value'],
    ['MX', '10 a..b', 'empty-label'],
    ['SRV', '0 0 -1 a', 'bad-number'],
    ['CNAME', `${'a'.repeat(64)}`, 'label-too-long'],
    ['CNAME', `${'a.'.repeat(126)}b`, 'name-too-long'],
    ['TXT', 'x'.repeat(256), 'string-too-long'],
    ['TXT', '"x', 'bad-quote'],
    ['TXT', 'x\\25', 'bad-string'],
    ['SOA', 'a b 1 1 1 1 1x', 'bad-ttl'],
    ['A', '\\# 3 0a0000', 'bad-value'],
    ['A', '\\# 4 0a0000', 'bad-value'],
    ['TYPE731', 'abc', 'type-not-read'],
    ['MX', '10 mail\n20 mail', 'extra-value'],
    ['DS', '1 8 2 abc', 'bad-value'],
    ['DS', '1 8 2', 'missing-value'],
    ['DNSKEY', '256 3 8 A', 'bad-value'],
    ['DNSKEY', '256 3 8 AB==', 'bad-value'],
    ['NSEC', 'a BOGUS', 'bad-value'],
    ['RRSIG', 'A 8 3 1 x 1 1 a AAAA', 'bad-value'],
    ['LOC', '91 N 0 E 0m', 'bad-value'],
    ['LOC', '1 60 N 0 E 0m', 'bad-value'],
    ['LOC', '1 N 0 E', 'missing-value'],
    ['APL', '1:192.0.2.0/33', 'bad-value'],
    ['APL', '2:192.0.2.0/3', 'bad-value'],
    ['EUI48', '00-00-5e-00-53', 'bad-value'],
    ['NID', '1 0014:4fff', 'bad-value'],
    ['CAA', '0 is-sue "x"', 'bad-value'],
    ['IPSECKEY', '10 4 2 . AAAA', 'bad-number'],
    ['IPSECKEY', '10 1 2 . AAAA', 'bad-value'],
    ['HIP', '2 zz AAAA', 'bad-value'],
    ['X25', `"${'1'.repeat(256)}"`, 'string-too-long'],
    // RFC 9460 appendix D.3.
    ['SVCB', '1 foo.example.com. ( key123=abc key123=def )', 'bad-value'],
    ['SVCB', '1 foo.example.com. mandatory', 'bad-value'],
    ['SVCB', '1 foo.example.com. alpn', 'bad-value'],
    ['SVCB', '1 foo.example.com. port', 'bad-value'],
    ['SVCB', '1 foo.example.com. ipv4hint', 'bad-value'],
    ['SVCB', '1 foo.example.com. ipv6hint', 'bad-value'],
    ['SVCB', '1 foo.example.com. no-default-alpn=abc', 'bad-value'],
    ['SVCB', '1 foo.example.com. mandatory=key123', 'bad-value'],
    ['SVCB', '1 foo.example.com. mandatory=mandatory', 'bad-value'],
    ['SVCB', '1 foo.example.com. ( mandatory=key123,key123 key123=abc )', 'bad-value'],
  ])('%s %s is refused', (type, text, kind) => expect(trouble(type, text)).toBe(kind))

  test('names are compared without case, texts with it', () => {
    expect(rdataKey(TYPE.MX, read('MX', '10 Mail'))).toBe(rdataKey(TYPE.MX, read('MX', '10 mAIL')))
    expect(rdataKey(TYPE.TXT, read('TXT', 'Proof'))).not.toBe(rdataKey(TYPE.TXT, read('TXT', 'proof')))
  })

  test('every row of the table has a vector, and no octets make it fail', () => {
    const proved = new Set(VECTORS.map(([type]) => parseType(type)))
    expect(typeRows().filter((row) => !proved.has(row.type) && row.type !== TYPE.CNAME)).toEqual([])
    fc.assert(
      fc.property(fc.constantFrom(...typeRows()), fc.uint8Array({ maxLength: 80 }), (row, octets) => {
        const text = rdataText(row.type, octets)
        if (!text.startsWith('\\#')) expect(hex(read(row.mnemonic, text))).toBe(hex(octets))
      }),
      { numRuns: 3000 },
    )
    // A hash without octets, and ports that end in zeros, have no text but the generic one.
    expect(rdataText(11, new Uint8Array(6))).toBe('\\# 6 000000000000')
    expect(rdataText(TYPE.NSEC3, new Uint8Array(6))).toBe('\\# 6 000000000000')
  })

  test('any strings survive the way to text and back', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 255 }), { minLength: 1, maxLength: 4 }), (strings) => {
        const wire = new Uint8Array(strings.flatMap((each) => [each.length, ...each]))
        expect(read('TXT', rdataText(TYPE.TXT, wire))).toEqual(wire)
      }),
    )
  })

  test('types are named and numbered', () => {
    expect([parseType('mx'), parseType('TYPE15'), parseType('TYPE70000'), parseType('nonsense')]).toEqual([
      15,
      15,
      undefined,
      undefined,
    ])
    expect([typeText(15), typeText(65280)]).toEqual(['MX', 'TYPE65280'])
  })
})

import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { nameToWire } from '../../../src/core/names/name.ts'
import { genericText, parseRdata, rdataKey, rdataText } from '../../../src/core/records/rdata.ts'
import { parseType, TYPE, typeText } from '../../../src/core/records/types.ts'

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
    ['A', '10.1.0.52', '0a010034'],
    ['AAAA', '4321:0:1:2:3:4:567:89ab', '432100000001000200030004056789ab'],
    ['MX', '10 VENERA.ISI.EDU.', '000a0656454e455241034953490345445500'],
    ['CNAME', 'a', '01610a686f6c6c6f776d657265076578616d706c6500'],
    ['NS', '@', '0a686f6c6c6f776d657265076578616d706c6500'],
    ['PTR', '.', '00'],
    ['TXT', '"a;b" c\\"d \\255', '03613b620363226401ff'],
    ['TXT', '""', '00'],
    ['SRV', '1 2 65535 .', '00010002ffff00'],
    ['SOA', '. . 20 7200 10m 5w6d 1h', '000000000014' + '00001c20' + '00000258' + '00360d80' + '00000e10'],
  ])('%s %s', (type, text, octets) => {
    expect(hex(read(type, text))).toBe(octets)
    expect(hex(read(type, rdataText(parseType(type)!, read(type, text))))).toBe(octets)
    expect(hex(read(type, genericText(read(type, text))))).toBe(octets)
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
    ['TYPE731', 'abc', 'unknown-type'],
    ['MX', '10 mail\n20 mail', 'extra-value'],
  ])('%s %s is refused', (type, text, kind) => expect(trouble(type, text)).toBe(kind))

  test('names are compared without case, texts with it', () => {
    expect(rdataKey(TYPE.MX, read('MX', '10 Mail'))).toBe(rdataKey(TYPE.MX, read('MX', '10 mAIL')))
    expect(rdataKey(TYPE.TXT, read('TXT', 'Proof'))).not.toBe(rdataKey(TYPE.TXT, read('TXT', 'proof')))
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
    expect([parseType('mx'), parseType('TYPE15'), parseType('TYPE70000'), parseType('nonsense')]).toEqual([15, 15, undefined, undefined])
    expect([typeText(15), typeText(65280)]).toEqual(['MX', 'TYPE65280'])
  })
})

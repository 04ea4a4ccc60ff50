import { describe, expect, test } from 'vitest'
import { typedData, typedName } from '../../../src/core/change/typed.ts'
import { rdataText } from '../../../src/core/records/rdata.ts'
import { parseType } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'

const zones = exampleZones({
  zones: { 'hollowmere.example': 'mail A 192.0.2.25\na.b A 192.0.2.26\n', 'lakepass.example': 'www A 192.0.2.1' },
})
const zone = zones.zones[0]!

describe('names as typed', () => {
  test.each([
    ['@', 'hollowmere.example.'],
    ['mail', 'mail.hollowmere.example.'],
    ['a.b', 'a.b.hollowmere.example.'],
    ['mail.hollowmere.example', 'mail.hollowmere.example.'],
    ['mail.Hollowmere.Example', 'mail.Hollowmere.Example.'],
    ['www.lakepass.example', 'www.lakepass.example.'],
    ['xhollowmere.example', 'xhollowmere.example.hollowmere.example.'],
    ['mx.larkpost.example.', 'mx.larkpost.example.'],
    ['*.wild', '*.wild.hollowmere.example.'],
    ['fähre', 'xn--fhre-loa.hollowmere.example.'],
  ])('%s is %s', (typed, name) => expect(typedName(typed, zone, zones.zones)).toBe(name))

  test.each([
    ['a..b', /not a valid domain name: empty label/],
    ['a'.repeat(64), /label too long/],
    ['☃', /U\+2603/],
  ])('%s is none', (typed, why) =>
    expect(typedName(typed, zone, zones.zones)).toEqual({ refused: expect.stringMatching(why) }),
  )
})

describe('values as typed', () => {
  const value = (type: string, text: string, force = false): string => {
    const number = parseType(type)!
    const data = typedData(number, text, zone, zones, force)
    return 'refused' in data ? data.refused : rdataText(number, data)
  }
  test.each<[string, string, string, boolean?]>([
    ['MX', '10 mail', '10 mail.hollowmere.example.'],
    ['MX', '10   www.lakepass.example', '10 www.lakepass.example.'],
    ['MX', '0 .', '0 .'],
    ['CNAME', '@', 'hollowmere.example.'],
    ['CNAME', 'a.b', 'a.b.hollowmere.example.'],
    ['SRV', '0 1 993 mx.larkpost.example.', '0 1 993 mx.larkpost.example.'],
    ['TXT', 'v=DMARC1; p=none', '"v=DMARC1; p=none"'],
    ['TXT', '"two" "strings"', '"two" "strings"'],
    ['TXT', 'with "quotes" inside', '"with \\"quotes\\" inside"'],
    ['TXT', 'back\\slash', '"back\\\\slash"'],
    ['TXT', 'é', '"\\195\\169"'],
    ['TXT', '', '""'],
    ['CAA', '0 issue "ca.example; a=b"', '0 issue "ca.example; a=b"'],
    ['A', '\\# 4 c0000201', '192.0.2.1'],
    ['MX', '10 192.0.2.1', '10 192.0.2.1.hollowmere.example.'],
    ['TXT', '(c) Foo (UK)', '"(c) Foo (UK)"'],
    ['TXT', '"a" and "b"', '"\\"a\\" and \\"b\\""'],
    ['TXT', '( "a" "b" )', '"a" "b"'],
    ['TXT', 'v=DKIM1; p=""', '"v=DKIM1; p=\\"\\""'],
    ['TXT', '"open', '"\\"open"'],
    ['SPF', 'v=spf1 -all', '"v=spf1 -all"'],
    ['TXT', '\\# 2 0161', '"a"'],
    ['NAPTR', '10 100 "S" "SIP+D2U" "!^a b c d mail$!sip:x@y!" .', '10 100 "S" "SIP+D2U" "!^a b c d mail$!sip:x@y!" .'],
    [
      'NAPTR',
      '10 100 "S" "SIP+D2U" "" _sip._udp.a.b',
      '10 100 "S" "SIP+D2U" "" _sip._udp.a.b.hollowmere.example.',
      true,
    ],
    ['SRV', '( 0 0\t5060 mail )', '0 0 5060 mail.hollowmere.example.'],
  ])('%s %s', (type, text, expected, force = false) => expect(value(type, text, force)).toBe(expected))

  test.each([
    ['CAA', '0 issue ca.example; a=b', /a semicolon outside quotes begins a comment/],
    ['CNAME', 'site.northlight.example', /has no final dot and is not in your zones/],
    ['MX', 'ten mail', /expected a number from 0 to 65535, not ten/],
    ['MX', '10 mail extra', /this one is extra/],
    ['A', '192.0.2.300', /not an IPv4 address/],
    ['TXT', `"${'x'.repeat(256)}"`, /at most 255/],
    ['SRV', '0 1 993', /the target is missing/],
  ])('%s %s is refused', (type, text, why) => expect(value(type, text)).toMatch(why))

  test('a long text is split, and a name that is likely absolute is taken as it stands where that is asked', () => {
    expect(value('TXT', 'x'.repeat(600))).toBe(`"${'x'.repeat(255)}" "${'x'.repeat(255)}" "${'x'.repeat(90)}"`)
    expect(value('CNAME', 'site.northlight.example', true)).toBe('site.northlight.example.hollowmere.example.')
  })
})

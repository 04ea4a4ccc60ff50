import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { differingSets } from '../../../src/core/change/difference.ts'
import { zoneDigest } from '../../../src/core/change/digest.ts'
import { editKept } from '../../../src/core/change/edit.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { typeText } from '../../../src/core/records/types.ts'

const NAME = 'hollowmere.example.'
function load(lines: readonly string[]): Zones {
  const zones = new Zones()
  readZone(zones, zones.addSource(zones.addZone(NAME, 'z'), 'z', octetsOf(`$TTL 60\n${lines.join('\n')}\n`)))
  zones.seal()
  return zones
}
const digest = (...lines: string[]): string => {
  const zones = load(lines)
  return zoneDigest(zones, zones.zones[0]!)
}
const SOA = '@ SOA ns1 hostmaster 7 1 2 3 4'
const LINES = [SOA, '@ MX 10 Mail.Hollowmere.example.', 'www A 192.0.2.1', 'www TXT "a" "b"', '_a._tcp SRV 0 1 2 mail']

describe(' a zone', () => {
  test('is the same in any order and case, and with another serial', () => {
    const shuffled = fc.shuffledSubarray(LINES, { minLength: LINES.length })
    fc.assert(fc.property(shuffled, (lines) => digest(...lines) === digest(...LINES)))
    expect(digest(...LINES)).toBe(
      digest(SOA.replace('7', '8'), '@ MX 10 mail.hollowmere.example.', 'WWW A 192.0.2.1', ...LINES.slice(3)),
    )
  })

  test.each([
    ['another value', 'www A 192.0.2.1', 'www A 192.0.2.2'],
    ['another TTL', 'www A 192.0.2.1', 'www 61 A 192.0.2.1'],
    ['another owner', 'www A 192.0.2.1', 'ww A 192.0.2.1'],
    ['strings that are cut elsewhere', 'www TXT "a" "b"', 'www TXT "ab"'],
    ['a preference that is a letter’s code', '@ MX 10 Mail.Hollowmere.example.', '@ MX 266 Mail.Hollowmere.example.'],
    ['letters of a text', 'www TXT "a" "b"', 'www TXT "A" "b"'],
    ['a timer of the SOA record', SOA, SOA.replace('3 4', '3 5')],
    ['a record less', 'www A 192.0.2.1', '; nothing'],
  ])('is another with %s', (_what, from, to) => {
    expect(digest(...LINES)).not.toBe(digest(...LINES.map((line) => (line === from ? to : line))))
  })
})

test('a zone that was edited has the digest of its new file', () => {
  const set = { owner: `new.${NAME}`, type: 1, ttl: 60, data: [new Uint8Array([192, 0, 2, 7])] }
  const zones = load(LINES)
  const before = zoneDigest(zones, zones.zones[0]!)
  const edited = editKept(zones, zones.zones[0]!, [set])
  expect('octets' in edited && zoneDigest(zones, zones.zones[0]!)).toBe(digest(...LINES, 'new A 192.0.2.7'))
  expect(before).toBe(digest(...LINES))
})

test('the sets that differ between two states', () => {
  const [before, after] = [
    load([SOA, 'a A 192.0.2.1', 'b A 192.0.2.1', 'c 30 A 192.0.2.1', 'd MX 1 X', 'e A 192.0.2.1', 'e A 192.0.2.2']),
    load([
      SOA.replace('7', '8'),
      'e A 192.0.2.2',
      'e A 192.0.2.1',
      'a A 192.0.2.1',
      'b A 192.0.2.9',
      'c A 192.0.2.1',
      'd MX 1 x',
      'f A 192.0.2.1',
    ]),
  ]
  const found = differingSets(before, before.zones[0]!, after, after.zones[0]!)
  expect(found.map((each) => [each.owner, typeText(each.type), each.before?.ttl, each.after?.ttl])).toEqual([
    [`b.${NAME}`, 'A', 60, 60],
    [`c.${NAME}`, 'A', 30, 60],
    [`f.${NAME}`, 'A', undefined, 60],
  ])
  expect(differingSets(after, after.zones[0]!, after, after.zones[0]!)).toEqual([])
})

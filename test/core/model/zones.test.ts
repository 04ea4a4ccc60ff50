import { describe, expect, test } from 'vitest'
import { LineIndex } from '../../../src/core/file/places.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { locate, MISSING, UNKNOWN } from '../../../src/core/knowledge/answer.ts'
import { Zones, type ZoneTraits } from '../../../src/core/model/zones.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { TYPE } from '../../../src/core/records/types.ts'

function load(files: [zone: string, text: string, traits?: ZoneTraits][]): Zones {
  const zones = new Zones()
  for (const [zone, text, traits] of files)
    readZone(
      zones,
      zones.addSource(zones.addZone(zone, zone, traits), zone, octetsOf(`$TTL 1\n@ SOA a b 1 1 1 1 1\n${text}`)),
    )
  return zones
}
const id = (zones: Zones, name: string): number => zones.tree.internWire(nameToWire(name) as Uint8Array)

describe('what exists, and which zone it is in', () => {
  const zones = load([
    [
      'one.example.',
      'a.b.c A 192.0.2.1\n*.w A 192.0.2.2\nx.w TXT "x"\ncut NS ns.cut\nns.cut A 192.0.2.3\nother.cut A 192.0.2.4\nold DNAME new\nsub NS ns.elsewhere.\nin.sub A 192.0.2.5\n',
    ],
    ['sub.one.example.', 'www A 192.0.2.6\n'],
    ['open.example.', 'www A 192.0.2.7\n', { complete: false }],
    ['unread.example.', ''],
  ])
  const names = [
    'b.c.one.example.',
    'c.one.example.',
    'd.one.example.',
    'q.w.one.example.',
    'x.w.one.example.',
    'q.x.w.one.example.',
    'ns.cut.one.example.',
    'gone.cut.one.example.',
    'x.old.one.example.',
    'in.sub.one.example.',
    'www.sub.one.example.',
    'sub.one.example.',
    'gone.open.example.',
    'www.elsewhere.',
  ]
  for (const name of names) id(zones, name)
  zones.seal()
  const found = (name: string): string => {
    const node = locate(zones, id(zones, name))
    return node === MISSING ? 'missing' : node === UNKNOWN ? 'unknown' : zones.tree.text(node)
  }
  test.each([
    ['b.c.one.example.', 'b.c.one.example.'],
    ['c.one.example.', 'c.one.example.'],
    ['d.one.example.', 'missing'],
    ['q.w.one.example.', '*.w.one.example.'],
    ['x.w.one.example.', 'x.w.one.example.'],
    ['q.x.w.one.example.', 'missing'],
    ['ns.cut.one.example.', 'ns.cut.one.example.'],
    ['gone.cut.one.example.', 'unknown'],
    ['x.old.one.example.', 'unknown'],
    ['in.sub.one.example.', 'missing'],
    ['www.sub.one.example.', 'www.sub.one.example.'],
    ['gone.open.example.', 'unknown'],
    ['www.elsewhere.', 'unknown'],
  ])('%s: %s', (name, expected) => expect(found(name)).toBe(expected))

  test('a name belongs to the deepest zone; the parent’s records of it stay the parent’s', () => {
    const sub = id(zones, 'sub.one.example.')
    expect(zones.zoneOf(sub)?.name).toBe('sub.one.example.')
    expect([zones.has(sub, TYPE.NS), zones.records(sub, TYPE.NS, 0).length, zones.has(sub, TYPE.SOA)]).toEqual([
      false,
      1,
      true,
    ])
    expect(zones.zoneWithApex(sub)?.index).toBe(1)
  })
})

test('records of one name are in the order of the file, whatever stands between', () => {
  const zones = load([['one.example.', 'a A 192.0.2.1\nb A 192.0.2.2\na TXT "x"\nA A 192.0.2.3\n']])
  zones.seal()
  expect(zones.set(id(zones, 'a.one.example.'), TYPE.A)).toMatchObject({
    owner: 'a.one.example.',
    ttl: 1,
    data: [new Uint8Array([192, 0, 2, 1]), new Uint8Array([192, 0, 2, 3])],
  })
})

test('a record that is dropped, altered or moved', () => {
  const zones = load([['one.example.', 'a A 192.0.2.1\na A 192.0.2.2\na A 192.0.2.3\n']])
  const name = id(zones, 'a.one.example.')
  const [first, second, third] = zones.records(name, TYPE.A, 0) as [number, number, number]
  const texts = (): string[] =>
    zones.records(name, TYPE.A, 0).map((record) => `${zones.ttl(record)} ${zones.rdataText(record)}`)
  zones.drop(second)
  expect(texts()).toEqual(['1 192.0.2.1', '1 192.0.2.3'])
  zones.drop(third)
  zones.alter(first, 9, new Uint8Array([192, 0, 2, 9]), -1, 77, 0)
  zones.moveStarts(0, (start) => start + 100)
  expect([texts(), zones.start(first)]).toEqual([['9 192.0.2.9'], 177])
  zones.drop(first)
  zones.seal()
  expect([texts(), zones.exists(name)]).toEqual([[], false])
})

test('many records and names grow the columns without losing any', () => {
  const zones = load([['one.example.', Array.from({ length: 5000 }, (_, i) => `n${i} 7 MX ${i} t${i}\n`).join('')]])
  zones.seal()
  for (const i of [0, 63, 64, 1000, 4999]) {
    const record = zones.records(id(zones, `n${i}.one.example.`), TYPE.MX)[0]!
    expect([zones.ttl(record), zones.rdataText(record), zones.tree.text(zones.target(record))]).toEqual([
      7,
      `${i} t${i}.one.example.`,
      `t${i}.one.example.`,
    ])
  }
})

describe('lines and columns', () => {
  const index = new LineIndex(octetsOf('one\r\nzwei ü x\n\nend'))
  test.each([
    [0, 1, 1],
    [3, 1, 4],
    [5, 2, 1],
    [12, 2, 7],
    [15, 3, 1],
    [16, 4, 1],
    [18, 4, 3],
  ])('octet %d is line %d, column %d', (octet, line, column) => expect(index.place(octet)).toEqual({ line, column }))
  test('the text of a line', () =>
    expect([0, 6, 15, 17].map((octet) => index.lineText(octet))).toEqual(['one', 'zwei ü x', '', 'end']))
})

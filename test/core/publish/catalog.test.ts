/** What brings a catalog zone in step with the zones of a delivery. */
import { expect, test } from 'vitest'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { catalogChange, emptyCatalog } from '../../../src/core/publish/catalog.ts'
import { typeText } from '../../../src/core/records/types.ts'

const NAME = 'catalog.upland-dns.example.'
const LINES = 'a.zones PTR lakepass.example.\nb.zones PTR Hollowmere.example.\ngroup.b.zones TXT "g"\n'
function changed(lines: string, wanted: string[], keepsOthers = false) {
  const zones = new Zones()
  const text = emptyCatalog(NAME, 7) + lines
  readZone(zones, zones.addSource(zones.addZone(NAME, 'c'), 'c', octetsOf(text)))
  zones.seal()
  const { added, removed, sets } = catalogChange(zones, zones.zones[0]!, wanted, keepsOthers)
  const short = sets.map(
    ({ owner, type, data }) => `${data.length > 0 ? '+' : '-'}${owner.replace(`.${NAME}`, '')} ${typeText(type)}`,
  )
  return { added, removed, short }
}

test.each<[string, string, string[], boolean, string[], string[], (string | RegExp)[]]>([
  ['nothing is to be done', LINES, ['lakepass.example.', 'hollowmere.example.'], false, [], [], []],
  ['one comes', '', ['Lakepass.example.'], false, ['lakepass.example.'], [], [/^\+[0-9a-f]{16}\.zones PTR$/]],
  [
    'one goes, with what is said of it',
    LINES,
    ['lakepass.example.'],
    false,
    [],
    ['hollowmere.example.'],
    ['-b.zones PTR', '-group.b.zones TXT'],
  ],
  ['one that may only not be known just now stays', LINES, ['lakepass.example.'], true, [], [], []],
  ['one comes all the same', LINES, ['rail.example.'], true, ['rail.example.'], [], [/^\+/]],
])('%s', (_what, lines, wanted, keepsOthers, added, removed, sets) => {
  const made = changed(lines, wanted, keepsOthers)
  expect([made.added, made.removed]).toEqual([added, removed])
  expect(made.short).toHaveLength(sets.length)
  for (const [i, each] of sets.entries()) expect(made.short[i]).toMatch(each)
})

test('a zone gets the same label wherever it is made, and each its own', () => {
  const of = (zone: string): string => changed('', [zone]).short[0]!
  expect(of('a.example.')).toBe(of('A.example.'))
  expect(of('a.example.')).not.toBe(of('b.example.'))
})

import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { locate, locateName, MISSING, UNKNOWN } from '../../../src/core/knowledge/answer.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { TYPE } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'

const TEXT = `www A 192.0.2.1
*.lake A 192.0.2.2
pier.lake TXT "x"
a.deep.down A 192.0.2.3
isle NS ns.isle
ns.isle A 192.0.2.4
old DNAME lakepass.example.`

describe('which name answers for another, whether anything speaks of it or not', () => {
  test.each<[string, string | typeof MISSING | typeof UNKNOWN]>([
    ['www', 'www'],
    ['WWW', 'www'],
    ['nothing', MISSING],
    ['below.www', MISSING],
    ['any.lake', '*.lake'],
    ['any.any.lake', '*.lake'],
    ['*.lake', '*.lake'],
    ['pier.lake', 'pier.lake'],
    ['below.pier.lake', MISSING],
    ['lake', 'lake'],
    ['deep.down', 'deep.down'],
    ['other.deep.down', MISSING],
    ['ns.isle', 'ns.isle'],
    ['isle', UNKNOWN],
    ['www.isle', UNKNOWN],
    ['old', 'old'],
    ['www.old', UNKNOWN],
  ])('%s', (name, expected) => {
    const zones = exampleZones(TEXT)
    const full = (relative: string): string => `${relative}.hollowmere.example.`
    const before = locateName(zones, full(name))
    expect(before < 0 ? before : zones.tree.text(before)).toBe(typeof expected === 'number' ? expected : full(expected))
    // The same once it is a name of the tree.
    const id = zones.tree.internWire(nameToWire(full(name)) as Uint8Array)
    zones.sealNames()
    expect(locate(zones, id)).toBe(before)
    expect(locateName(zones, full(name))).toBe(before)
  })

  test('outside every kept zone, in one that others add to, and what is no name', () => {
    const zones = exampleZones({
      zones: { 'hollowmere.example': 'www A 192.0.2.1' },
      traits: { 'hollowmere.example': { complete: false } },
    })
    expect(
      ['www.larkpost.example.', 'gone.hollowmere.example.', 'a..b.'].map((name) => locateName(zones, name)),
    ).toEqual([UNKNOWN, UNKNOWN, UNKNOWN])
  })
})

test('names and hosts that come after sealing have the places that sealing anew gives them', () => {
  const label = fc.constantFrom('a', 'b', 'lake', 'isle', 'old', 'www', '*')
  const name = fc
    .array(label, { minLength: 1, maxLength: 4 })
    .map((labels) => `${labels.join('.')}.hollowmere.example.`)
  fc.assert(
    fc.property(fc.array(name, { maxLength: 6 }), fc.array(name, { minLength: 1, maxLength: 12 }), (hosts, asked) => {
      const zones = exampleZones(TEXT)
      const zone = zones.zones[0]!
      const address = parseRdata(TYPE.A, '192.0.2.9', new Uint8Array(1))
      for (const host of hosts) {
        const id = zones.tree.internWire(nameToWire(host) as Uint8Array)
        zones.sealNames()
        const at = zones.data.length
        zones.data.put('wire' in address ? address.wire : new Uint8Array())
        zones.addRecord(id, TYPE.A, 60, 1, 0, 0, at, -1, 0)
        zones.markExisting(id, zone)
      }
      const step = asked.map((each) => locateName(zones, each))
      zones.seal()
      expect(step).toEqual(asked.map((each) => locateName(zones, each)))
    }),
    { numRuns: 200 },
  )
})

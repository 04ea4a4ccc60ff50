import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { editZone } from '../../../src/core/change/edit.ts'
import type { SetChange } from '../../../src/core/file/edit/changes.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { foldName } from '../../../src/core/names/name.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'

/** A record of a file as octets and numbers, class included. */
interface Read {
  owner: string
  type: number
  klass: number
  ttl: number
  data: string
}

const hex = (data: Uint8Array): string => Buffer.from(data).toString('hex')
const octets = (data: string): Uint8Array => new Uint8Array(Buffer.from(data, 'hex'))

/** All that is read of a file, in its order, and how many entries cannot be. */
function readAll(file: Uint8Array, zone: string): { records: Read[]; unread: number } {
  const zones = new Zones()
  const index = zones.addSource(zones.addZone(zone, ''), '', file)
  readZone(zones, index)
  const records = Array.from({ length: zones.count }, (_, record) => ({
    owner: foldName(zones.tree.text(zones.owner(record))),
    type: zones.type(record),
    klass: zones.classOf(record),
    ttl: zones.ttl(record),
    data: hex(zones.rdata(record)),
  }))
  return { records, unread: zones.sources[index]!.problems.filter(({ read }) => !read).length }
}

/** Either the edit is refused, and says which line stands in its way, or it did what was asked, and nothing else. */
function expectProved(file: Uint8Array, zone: string, change: SetChange): void {
  const edited = editZone(file, zone, [change])
  if ('refused' in edited) return
  const before = readAll(file, zone)
  const after = readAll(edited.octets, zone)
  const asked = ({ owner, type, klass }: Read): boolean =>
    owner === foldName(change.owner) && type === change.type && klass === 1
  const others = ({ records }: typeof before): Read[] => records.filter((each) => !asked(each))
  expect(others(after)).toEqual(others(before))
  expect(after.unread).toBe(before.unread)
  const set = after.records.filter(asked)
  expect(new Set(set.map(({ data }) => data.toLowerCase()))).toEqual(
    new Set(change.data.map((data) => hex(data).toLowerCase())),
  )
  const ttl = change.ttl ?? before.records.find(asked)?.ttl
  if (ttl !== undefined) expect(new Set(set.map((each) => each.ttl))).toEqual(new Set(set.length > 0 ? [ttl] : []))
}

/** The set as it is read, written again: the file stays as it was, unless that is refused. */
function expectUntouched(file: Uint8Array, zone: string, owner: string, type: number): void {
  const set = readAll(file, zone).records.filter((each) => each.owner === foldName(owner) && each.type === type)
  const data = [...new Set(set.map((each) => each.data))]
  const ours = set.filter(({ klass }) => klass === 1)
  // A record that is there twice, and TTLs that differ, are put right.
  if (new Set(ours.map((each) => each.data)).size < ours.length || new Set(ours.map(({ ttl }) => ttl)).size > 1) return
  const edited = editZone(file, zone, [{ owner, type, ttl: set[0]?.ttl, data: data.map(octets) }])
  if (!('refused' in edited)) expect(hex(edited.octets)).toBe(hex(file))
}

const FOLDER = 'test/core/file/unreadable'
interface Asked {
  zone: string
  change?: { owner: string; type: number; ttl?: number; data: string[] }
  again?: { owner: string; type: number }
}
const ASKED = Object.entries(JSON.parse(readFileSync(`${FOLDER}/asked.json`, 'utf8')) as Record<string, Asked>)

const ZONE = 'fuzz.example.'
const CHANGES = ['removed', 'first', 'doubled', 'fresh'] as const
/** Lines that are sound, and such as cannot be read or change what those behind them mean. */
const LINES = [
  '$TTL 3600',
  '$TTL\f 3600',
  '$ORIGIN sub.fuzz.example.',
  '@ SOA ns1 h 1 7200 900 1209600 3600',
  '@ NS ns1',
  '\tNS ns2',
  '  CH NS ns2',
  'ns1 A 192.0.2.1',
  '  A 192.0.2.2',
  'www 300 A 192.0.2.3',
  'www HS A 192.0.2.4',
  'mail HS "APL" "TXT"',
  'mail 60 A AAAA',
  '@ MX 10 mail',
  '@ TXT "v=spf1 -all"',
  '_dmarc TXT "v=DMARC1; p=none',
  't TXT ( "one"',
  '   "two" )',
  't CAA 0 issue ";"',
  'x" TXT a',
  'x TXT "a"b"',
  ') A 192.0.2.5',
  '        }',
  '*   NSEC3PARAM "HINFO"',
  '$GENERATE 1-3 g$ A 192.0.2.$',
  '; note "open',
  '',
]
const damaged = fc
  .array(fc.constantFrom(...LINES), { minLength: 3, maxLength: 16 })
  .map((lines) => octetsOf(`$TTL 1h\n@ SOA ns1 h 1 7200 900 1209600 3600\n${lines.join('\n')}\n`))

describe('files with entries that cannot be read', () => {
  test.each(ASKED)('%s: as asked, or refused', (name, { zone, change, again }) => {
    const file = new Uint8Array(readFileSync(`${FOLDER}/${name}.zone`))
    if (change) expectProved(file, zone, { ...change, data: change.data.map(octets) })
    if (again) expectUntouched(file, zone, again.owner, again.type)
  })

  test('any of many random changes of damaged files', () => {
    fc.assert(
      fc.property(damaged, fc.nat(), fc.nat(), fc.constantFrom(...CHANGES), (file, which, ttl, kind) => {
        const { records } = readAll(file, ZONE)
        const record = records[which % Math.max(1, records.length)]
        if (!record) return
        const { owner, type } = record
        const there = records.filter((each) => each.owner === owner && each.type === type).map(({ data }) => data)
        const data = {
          removed: [],
          first: there.slice(0, 1),
          doubled: [...new Set([...there, ...records.filter((each) => each.type === type).map((each) => each.data)])],
          fresh: ['c0000263'],
        }[kind]
        const change = kind === 'fresh' ? { owner: `new.${ZONE}`, type: 1 } : { owner, type }
        expectProved(file, ZONE, { ...change, data: data.map(octets), ...(ttl % 2 ? { ttl: ttl % 9999 } : {}) })
        expectUntouched(file, ZONE, owner, type)
      }),
      { numRuns: Number(process.env.UNREADABLE ?? 1500) },
    )
  })
})

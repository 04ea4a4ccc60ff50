import fc from 'fast-check'
import { expect, test } from 'vitest'
import { affectedBy } from '../../../src/core/change/affected.ts'
import { editKept } from '../../../src/core/change/edit.ts'
import type { SetChange } from '../../../src/core/file/edit/changes.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { parseType } from '../../../src/core/records/types.ts'
import { check } from '../../../src/core/rules/engine.ts'
import type { Finding } from '../../../src/core/rules/rule.ts'

const OWNERS = [
  '@',
  'a',
  'b',
  'mx',
  '*',
  'c.a',
  '*.a',
  '_x._tcp',
  'x._tcp',
  '_dmarc',
  '_dmarc.a',
  's._domainkey',
  '*._report._dmarc',
]
const TARGETS = ['a', 'b', 'c.a', 'd.a', 'n', 'a.two.example.', 'q.two.example.', 'a.one.example', 'mx.co.uk', '@']
const record = fc
  .tuple(
    fc.constantFrom(...OWNERS),
    fc.constantFrom('A', 'MX', 'CNAME', 'SRV', 'TXT', 'NS', 'DNAME'),
    fc.constantFrom(...TARGETS),
    fc.nat(2),
  )
  .map(([owner, type, target, n]) => ({ owner, type, value: madeValue(type, target, n) }))

const TEXTS = [
  'v=spf1 -all',
  'v=spf1 ~all',
  'v=DMARC1; p=none',
  'v=DMARC1; p=reject; rua=mailto:d@a.two.example',
  'v=spf1 include:a.one.example -all',
  'v=spf1 a:b.one.example a:c.a.one.example a:a.one.example -all',
  'v=spf1 redirect=b.one.example',
  'v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo=',
  'v=DMARC1',
  'v=spf1 include:x.two.example mx',
  'v=DMARC1; p=quarantine; rua=mailto:d@two.example,mailto:d@one.example',
  'hello',
].map((text) => `"${text}"`)

function madeValue(type: string, target: string, n: number): string {
  if (type === 'A') return `192.0.2.${n}`
  if (type === 'MX') return `${n} ${target}`
  if (type === 'SRV') return `0 0 ${n} ${target}`
  if (type === 'TXT') return TEXTS[n * 4 + (target.length % 4)]!
  return target
}

const HEAD =
  '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n'
const zoneText = fc
  .array(record, { maxLength: 10 })
  .map((records) => HEAD + records.map(({ owner, type, value }) => `${owner} ${type} ${value}\n`).join(''))

function load(one: string, two: string): Zones {
  const zones = new Zones()
  for (const [name = '', text = ''] of [
    ['one.example.', one],
    ['two.example.', two],
  ])
    readZone(zones, zones.addSource(zones.addZone(name, name), name, octetsOf(text)))
  zones.seal()
  return zones
}

/** How often each rule speaks at each name and type. */
function tally(findings: Finding[]): Map<string, number> {
  const counts = new Map<string, number>()
  // Advice on many records is given once, at whichever the walk comes to first.
  for (const { rule, owner, type, severity } of findings)
    if (severity !== 'advice') counts.set(`${rule} ${owner} ${type}`, (counts.get(`${rule} ${owner} ${type}`) ?? 0) + 1)
  return counts
}

function added(before: Finding[], after: Finding[]): string[] {
  const then = tally(before)
  return [...tally(after)].flatMap(([key, count]) => (count > (then.get(key) ?? 0) ? [key] : [])).sort()
}

test('checking what a change can affect finds what checking everything finds', async () => {
  await fc.assert(
    fc.asyncProperty(zoneText, zoneText, record, fc.boolean(), async (one, two, { owner, type, value }, removal) => {
      const zones = load(one, two)
      const zone = zones.zones[0]!
      const number = parseType(type)!
      const parsed = parseRdata(number, value, nameToWire('one.example.') as Uint8Array)
      if (!('wire' in parsed)) throw new Error(parsed.message)
      const changes: SetChange[] = [
        {
          owner: owner === '@' ? 'one.example.' : `${owner}.one.example.`,
          type: number,
          data: removal ? [] : [parsed.wire],
        },
      ]
      const allBefore = (await check(zones)).findings
      const about = affectedBy(zones, zone, changes)
      const someBefore = (await check(zones, { about })).findings
      const edited = editKept(zones, zone, changes)
      if ('refused' in edited) throw new Error(edited.refused)
      const someAfter = (await check(zones, { about })).findings
      // The model that was changed in place is the one that a fresh reading gives.
      const fresh = load(new TextDecoder().decode(edited.octets), two)
      const allAfter = (await check(fresh)).findings
      const said = (findings: Finding[]) =>
        findings
          .filter(({ rule }) => rule !== 'cname/loop')
          .map(({ rule, owner: at, line, column, message }) => [rule, at, line, column, message])
      expect(said((await check(zones)).findings)).toEqual(said(allAfter))
      // A circle of aliases is told once, at whichever of its names the walk comes to first.
      const steady = (keys: string[]): string[] => keys.filter((key) => !key.startsWith('cname/loop'))
      expect(steady(added(someBefore, someAfter))).toEqual(steady(added(allBefore, allAfter)))
      const circles = (findings: Finding[]): number => findings.filter(({ rule }) => rule === 'cname/loop').length
      if (circles(allAfter) > circles(allBefore)) expect(circles(someAfter)).toBeGreaterThan(circles(someBefore))
    }),
    { numRuns: 400 },
  )
})

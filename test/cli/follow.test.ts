/** `follow` as people call it. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { following } from '../../src/core/change/follow.ts'
import type { Knowledge } from '../../src/core/knowledge/find.ts'
import { parseRdata, rdataText } from '../../src/core/records/rdata.ts'
import { TYPE, typeText } from '../../src/core/records/types.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { folderWith, HEAD, run } from './program.ts'

const ROOT = new Uint8Array([0])
const known = (type: number, outcome: Knowledge['outcome'], ttl = 60, ...values: string[]): Knowledge => ({
  steps: [],
  end: 'site.example.',
  outcome,
  by: 'nobody',
  ...(values.length > 0
    ? {
        set: {
          owner: 'site.example.',
          type,
          ttl,
          data: values.map((text) => (parseRdata(type, text, ROOT) as { wire: Uint8Array }).wire),
        },
      }
    : {}),
})
const a = (...values: string[]): Knowledge => known(TYPE.A, 'data', 60, ...values)
const aaaa = (...values: string[]): Knowledge => known(TYPE.AAAA, 'data', 60, ...values)
const none = known(TYPE.A, 'no-data')

test.each<[string, string, Knowledge, Knowledge, string[] | RegExp]>([
  [
    'new sets, with the target’s TTL',
    '',
    a('192.0.2.1'),
    aaaa('2001:db8::1'),
    ['A 60 192.0.2.1', 'AAAA 60 2001:db8::1'],
  ],
  ['a TTL above the zone’s', '', known(TYPE.A, 'data', 99_999, '192.0.2.1'), none, ['A 3600 192.0.2.1']],
  ['the TTL of the set there is', '@ 900 A 192.0.2.9', a('192.0.2.1'), none, ['A 900 192.0.2.1']],
  ['what is there already, in another order', '@ A 192.0.2.2\n@ A 192.0.2.1', a('192.0.2.1', '192.0.2.2'), none, []],
  ['one family that is no longer there', '@ A 192.0.2.1\n@ AAAA 2001:db8::1', a('192.0.2.1'), none, ['AAAA 3600 ']],
  ['no address at all', '@ A 192.0.2.1', none, none, /has no address at all/],
  ['no such name', '@ A 192.0.2.1', known(TYPE.A, 'no-name'), known(TYPE.AAAA, 'no-name'), /does not exist/],
  ['half an answer', '@ A 192.0.2.1', a('192.0.2.2'), { ...known(TYPE.AAAA, 'unknown'), why: 'time-out' }, /no answer/],
  ['a failure', '@ A 192.0.2.1', { ...known(TYPE.A, 'unknown'), why: 'server-failure' }, none, /server failed/],
])('%s', (_what, lines, four, six, expected) => {
  const zones = exampleZones(lines)
  const made = following(zones, zones.zones[0]!, 'hollowmere.example.', 'site.example.', { a: four, aaaa: six })
  if (expected instanceof RegExp) expect(made).toEqual({ refused: expect.stringMatching(expected) })
  else
    expect(
      'changes' in made &&
        made.changes.map(
          ({ type, ttl, data }) => `${typeText(type)} ${ttl} ${data.map((each) => rdataText(type, each)).join(' ')}`,
        ),
    ).toEqual(expected)
})

const CONFIG =
  '# ours\nzones:\n  - zones/*.zone\nfollows: [] # none yet\nvantages:\n  - {label: gone, address: 127.0.0.1, port: 1}\n'
const folder = (): string =>
  folderWith({
    'bramblefront.yaml': CONFIG,
    'zones/a.example.zone': `${HEAD}@ A 192.0.2.9\n`,
    'zones/b.example.zone': `${HEAD}site A 192.0.2.1\nsite AAAA 2001:db8::1\n`,
  })
const zone = (here: string): string => readFileSync(join(here, 'zones/a.example.zone'), 'utf8')
const config = (here: string): string => readFileSync(join(here, 'bramblefront.yaml'), 'utf8')

test('an owner follows, is brought up to date, and follows no longer', async () => {
  const here = folder()
  const unasked = await run(here, 'follow', 'a.example', 'site.b.example', '--json')
  expect([unasked.status, config(here), zone(here)]).toEqual([1, CONFIG, `${HEAD}@ A 192.0.2.9\n`])
  const begun = await run(here, 'follow', 'a.example', 'site.b.example', '--yes', '--json')
  expect([begun.status, begun.json().counts]).toEqual([0, { written: 1, unchanged: 0, unresolved: 0 }])
  expect(zone(here)).toMatch(/AAAA\s+2001:db8::1/)
  expect(config(here)).toMatch(/^# ours\n[\s\S]*owner: a\.example\b[\s\S]*target: site\.b\.example/)
  const same = await run(here, 'follow', '--yes', '--json')
  expect([same.status, same.json().counts]).toEqual([0, { written: 0, unchanged: 1, unresolved: 0 }])
  expect(await run(here, 'write', 'address', 'site.b.example', '192.0.2.2')).toMatchObject({ status: 0 })
  const later = await run(here, 'follow', '--yes', '--json')
  expect([later.status, later.json().counts]).toEqual([0, { written: 1, unchanged: 0, unresolved: 0 }])
  expect(zone(here)).toContain('192.0.2.2')
  expect(await run(here, 'follow', 'a.example', '--end', '--yes')).toMatchObject({ status: 0 })
  expect([config(here).includes('owner: a.example'), zone(here).includes('192.0.2.2')]).toEqual([false, true])
})

test.each<[string[], number, RegExp]>([
  [['a.example', 'nothere.b.example', '--yes'], 3, /does not exist/],
  [['a.example', 'elsewhere.example', '--yes', '--timeout', '1'], 3, /stays as it is/],
  [['a.example'], 2, /call it as/],
  [['a.example', '--end'], 2, /follows no name/],
  [['c.test.', 'site.b.example'], 2, /not in any of your zones/],
])('%j touches nothing', async (args, status, says) => {
  const here = folder()
  const ran = await run(here, 'follow', ...args)
  expect([ran.status, ran.stdout + ran.stderr]).toEqual([status, expect.stringMatching(says)])
  expect([config(here), zone(here)]).toEqual([CONFIG, `${HEAD}@ A 192.0.2.9\n`])
})

test('what cannot be followed is refused with its reason, and who is not there is named', async () => {
  const here = folderWith({
    'bramblefront.yaml':
      'zones: [zones/*.zone]\nfollows:\n  - {owner: b.hollowmere.example, target: c.hollowmere.example}\n',
    'zones/hollowmere.example.zone': `${HEAD}b A 192.0.2.1\nc A 192.0.2.1\n`,
  })
  const call = (...args: string[]) => run(here, 'follow', ...args, '--yes')
  for (const [args, why] of [
    [['c.hollowmere.example', 'c.hollowmere.example'], /the same name/],
    [['c.hollowmere.example', 'b.hollowmere.example'], /in a circle/],
    [['c.hollowmere.example', '192.0.2.7'], /an address.*write address c\.hollowmere\.example 192\.0\.2\.7/],
    [['c.hollowmere.example', '2001:db8::7'], /an address/],
  ] as const) {
    const { status, stderr } = await call(...args)
    expect([status, stderr]).toEqual([2, expect.stringMatching(why)])
  }
  const { status, json } = await call('c.hollowmere.example', 'nowhere.hollowmere.example', '--json')
  expect([status, json().unresolved]).toEqual([
    3,
    [
      {
        owner: 'c.hollowmere.example.',
        target: 'nowhere.hollowmere.example.',
        why: expect.stringContaining('does not exist'),
      },
    ],
  ])
})

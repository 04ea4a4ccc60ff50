/** A command about one zone reads few files of many, and says what it would say if it read them all. */
import { mkdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import type { Preview } from '../../src/core/change/change-set.ts'
import { preview } from '../../src/core/change/preview.ts'
import { tiesOf } from '../../src/core/change/ties.ts'
import { questionsFor } from '../../src/core/confirm/questions.ts'
import { foldName } from '../../src/core/names/name.ts'
import { parseRdata } from '../../src/core/records/rdata.ts'
import { parseType } from '../../src/core/records/types.ts'
import { byPurpose } from '../../src/core/view/purpose.ts'
import { whereItLeads } from '../../src/core/view/record-set.ts'
import { neededFiles } from '../../src/workspace/needed.ts'
import { loadZones, openWorkspace, type Workspace, type ZoneFile, zoneNamed } from '../../src/workspace/workspace.ts'
import { folderWith, run } from '../cli/program.ts'

/** Numbers that are the same each time (Lehmer). */
const numbers = (seed: number) => {
  let state = seed
  return (below: number): number => (state = (state * 48_271) % 2_147_483_647) % below
}

const LETTERS = [...'abcdefghijklmnopqrstuvwx']
const NAMES = [
  ...LETTERS.flatMap((letter) => [`${letter}.example`, `sub.${letter}.example`, `${letter}.deep.example`]),
  'example',
  'deep.example',
  '2.0.192.in-addr.arpa',
]
const KEY = (n: number): string => `"v=DKIM1; k=ed25519; p=${Buffer.alloc(32, n + 1).toString('base64')}"`

/** A record as it may stand somewhere: its owner, type and data; it speaks of some zone of these. */
function record(some: (below: number) => number): { owner: string; type: string; data: string } {
  const zone = NAMES[some(NAMES.length)]!
  const host = `${['www', 'mail', 'news', 'none'][some(4)]}.${zone}.`
  const kinds: [string, string, string][] = [
    ['@', 'MX', `10 ${host}`],
    ['www', 'CNAME', host],
    ['news', 'CNAME', host],
    ['_imaps._tcp', 'SRV', `0 1 993 ${host}`],
    ['mail', 'A', `192.0.2.${some(6)}`],
    ['@', 'A', `192.0.2.${some(6)}`],
    ['@', 'TXT', `"v=spf1 include:${zone} a:${host} -all"`],
    ['_dmarc', 'TXT', `"v=DMARC1; p=none; rua=mailto:d@${zone}"`],
    [`${NAMES[some(NAMES.length)]}._report._dmarc`, 'TXT', '"v=DMARC1"'],
    ['s1._domainkey', 'TXT', KEY(some(3))],
    ['s1._domainkey', 'CNAME', `s1._domainkey.${zone}.`],
    ['sub', 'NS', host],
    ['*', 'CNAME', host],
    ['news', 'DNAME', `${zone}.`],
    [String(some(6)), 'PTR', host],
  ]
  const [owner, type, data] = kinds[some(kinds.length)]!
  return { owner, type, data }
}

function zoneText(zone: string, some: (below: number) => number): string {
  const records = Array.from({ length: some(5) }, () => record(some))
  return `$TTL 60\n${zone}. SOA ns1.upland-dns.example. h 7 1 2 3 4\n@ NS ns1.a.example.\n${records.map(({ owner, type, data }) => `${owner} ${type} ${data}\n`).join('')}`
}

async function worldOf(some: (below: number) => number): Promise<Workspace> {
  const folder = folderWith({
    'bramblefront.yaml': 'zones: [zones/*.zone]\nfollows:\n  - {owner: b.example, target: www.q.example}\n',
  })
  mkdirSync(join(folder, 'zones'))
  for (const name of NAMES) put(folder, name, zoneText(name, some))
  return openWorkspace(folder)
}

/** Some time ago, so that the index takes it. */
function put(folder: string, zone: string, text: string): void {
  const file = join(folder, 'zones', `${zone}.zone`)
  writeFileSync(file, text)
  utimesSync(file, 1_700_000_000, 1_700_000_000)
}

/** What a change of a zone comes to, when these files are read. */
async function changed(
  files: readonly ZoneFile[],
  zone: string,
  made: ReturnType<typeof record>,
  isGone: boolean,
  { around }: Workspace,
) {
  const zones = loadZones(files)
  const at = zoneNamed(zones, zone)
  const type = parseType(made.type)!
  const data = parseRdata(type, made.data, new Uint8Array([0])) as { wire: Uint8Array }
  const owner = made.owner === '@' ? at.name : `${made.owner}.${at.name}`
  const reload = (instead: ReadonlyMap<string, Uint8Array>) => loadZones(files, false, undefined, instead)
  const parts = [{ zone: at, sets: [{ owner, type, data: isGone ? [] : [data.wire] }] }]
  const result = await preview(zones, { parts }, { now: new Date('2026-11-23'), around, digests: true, reload })
  return { result, names: tiesOf(zones, at) }
}

const plain = (result: Preview | { refused: string }): unknown =>
  'refused' in result
    ? result
    : Object.entries(result.findings).map(([kind, all]) => [
        kind,
        all.map(({ rule, owner, message, effect, fix }: any) => [rule, owner, message, effect, fix]).sort(),
      ])

/** What is shown of a zone, and asked for it. */
function shown(files: readonly ZoneFile[], zone: string): unknown {
  const zones = loadZones(files)
  const at = zoneNamed(zones, zone)
  const leads = byPurpose(zones, at).map(({ records }) =>
    records.map((each) => whereItLeads(zones, zones.target(each))),
  )
  const { questions, left } = questionsFor(zones, at, 'x')
  return [
    leads,
    questions.map(({ owner, type, asked, intended }) => [owner, type, asked, intended?.data.map(String)]),
    left,
  ]
}

describe('of many zones, those that matter', () => {
  test.each([1, 2, 3, 4])('world %i: what is shown and found is what all of them say', async (seed) => {
    const some = numbers(seed * 7919)
    const workspace = await worldOf(some)
    let few = 0
    for (let i = 0; i < 8; i++) {
      const zone = NAMES[some(NAMES.length)]!
      expect(shown(neededFiles(workspace, { words: [zone] }), zone)).toEqual(shown(workspace.files, zone))
      const made = record(some)
      const isGone = some(3) === 0
      let files = neededFiles(workspace, { words: [zone] })
      for (;;) {
        const { result, names } = await changed(files, zone, made, isGone, workspace)
        const next = neededFiles(workspace, { words: [zone], changed: [zone], names })
        if (next.length <= files.length) {
          expect(plain(result), `${zone} ${JSON.stringify(made)}`).toEqual(
            plain((await changed(workspace.files, zone, made, isGone, workspace)).result),
          )
          break
        }
        files = next
      }
      if (files.length < workspace.files.length) few++
    }
    expect(few).toBeGreaterThan(0)
  })

  test('names in the words of a call, however they are typed', async () => {
    const workspace = await worldOf(() => 0)
    const zonesFor = (...words: string[]): string[] =>
      neededFiles(workspace, { words })
        .map(({ zone }) => foldName(zone))
        .filter((zone) => zone !== 'a.example.')
    for (const word of [
      'WWW.C.example',
      'c.example.',
      'mx:mail.c.example',
      'https://c.example/x',
      'office@c.example',
      '10 c.example',
    ])
      expect(zonesFor(word)).toContain('c.example.')
    expect(zonesFor('192.0.2.7')).toContain('2.0.192.in-addr.arpa.')
    expect(zonesFor('somewhere.invalid').length).toBe(NAMES.length - 1)
  })
})

describe('an index that is not what it should be', () => {
  const INDEX = '.bramblefront.index'
  const CALLS = [
    ['show', 'c.example'],
    ['write', 'mx', 'c.example', '10 www.d.example.', '--dry-run', '--json'],
    ['timing', 'c.example', '--json'],
  ]
  const said = async (folder: string, anywhere = false): Promise<unknown> => {
    const ran = await Promise.all(
      CALLS.map((args) => run(folder, ...args, ...(anywhere ? ['--include-anywhere'] : []))),
    )
    return ran.map(({ status, stdout, stderr }) => [
      status,
      stdout.replace(/"at": .*|20\d\d-\d\d-\d\dT[\w:.]+|\d\d:\d\d UTC.*/g, ''),
      stderr,
    ])
  }

  test.each<[string, (folder: string, index: string) => void]>([
    ['missing', () => {}],
    ['good', (folder, index) => writeFileSync(join(folder, INDEX), index)],
    ['cut off', (folder, index) => writeFileSync(join(folder, INDEX), index.slice(0, -100))],
    ['changed', (folder, index) => writeFileSync(join(folder, INDEX), index.replaceAll('d.example', 'e.example'))],
    ['no index at all', (folder) => writeFileSync(join(folder, INDEX), '\u0000\n[[')],
    [
      'older than the files',
      (folder, index) => {
        writeFileSync(join(folder, INDEX), index)
        writeFileSync(
          join(folder, 'zones/d.example.zone'),
          zoneText('d.example', () => 4),
        )
        writeFileSync(join(folder, 'zones/y.example.zone'), readFileSync(join(folder, 'zones/c.example.zone')))
      },
    ],
  ])('%s: all is said as without one', async (_what, spoil) => {
    const { folder } = await worldOf(numbers(42))
    await run(folder, 'show', 'c.example')
    const index = readFileSync(join(folder, INDEX), 'utf8')
    writeFileSync(join(folder, INDEX), '')
    spoil(folder, index)
    const here = await said(folder)
    expect(here).toEqual(await said(folder, true))
    expect(await said(folder)).toEqual(here)
  })
})

/** `recipe` as people call it. */
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { octetsOf } from '../../src/core/names/octets.ts'
import { fill } from '../../src/core/recipe/fill.ts'
import { sampleOf, valueFor } from '../../src/core/recipe/recipe.ts'
import { typeText } from '../../src/core/records/types.ts'
import { check } from '../../src/core/rules/engine.ts'
import { recipesIn } from '../../src/workspace/recipes.ts'
import { loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD, run } from './program.ts'

const zoneFile = (zone: string): string => `zones/${zone}.zone`
const LODGE = `label: lodge
title: Mail at the lodge
blanks:
  - {name: host, what: the host, kind: name, default: mail}
  - {name: number, what: the account number, kind: number, example: "7"}
records:
  - "@ MX 10 \${host}"
  - '@ TXT "lodge-account=\${number}"'
`
const folder = (files: Record<string, string> = {}): string =>
  folderWith({
    'bramblefront.yaml': 'zones:\n  - zones/*.zone\n',
    'recipes/lodge.yaml': LODGE,
    [zoneFile('one.example')]: `${HEAD}mail A 192.0.2.25\n`,
    [zoneFile('two.example')]: `${HEAD}mail A 192.0.2.25\n@ MX 20 mail\n`,
    [zoneFile('three.test')]: `${HEAD}mail A 192.0.2.25\n`,
    ...files,
  })
const read = (here: string, zone: string): string => readFileSync(join(here, zoneFile(zone)), 'utf8')

test('what is missing stays open; what is given is written, once', async () => {
  const here = folder()
  const before = read(here, 'one.example')
  const call = ['recipe', 'write', 'lodge', 'one.example', '--yes', '--json']
  const open = await run(here, ...call)
  expect([open.status, open.json().blanks, open.json().written, read(here, 'one.example')]).toEqual([
    1,
    [{ line: 2, text: '${number}', name: 'number' }],
    false,
    before,
  ])
  const done = await run(here, ...call, '--fill', 'number=40017')
  expect([done.status, done.json().written]).toEqual([0, true])
  expect(done.json().changes.map((each: any) => `${each.owner} ${each.type} ${each.after.records}`)).toEqual([
    'one.example. MX 10 mail.one.example.',
    'one.example. TXT "lodge-account=40017"',
  ])
  const again = await run(here, ...call, '--fill', 'number=40017')
  expect([again.status, again.json().changes]).toEqual([0, []])
})

test.each<[string, string[], number, RegExp]>([
  ['a value that does not fit', ['lodge', 'one.example', '--fill', 'number=many'], 1, /blank number .*whole number/],
  ['an unknown blank', ['lodge', 'one.example', '--fill', 'size=1'], 2, /no such blank; it has: host, number/],
  ['an unknown recipe', ['lodg', 'one.example'], 2, /did you mean lodge/],
  ['no zone', ['lodge'], 2, /say which zone/],
  ['a zone and a pattern', ['lodge', 'one.example', '--in', '*'], 2, /not both/],
  ['a pattern that fits nothing', ['lodge', '--in', '*.org'], 2, /none of your zones/],
  ['a name outside the zone', ['lodge', 'one.example', '--under', 'two.example.'], 2, /not a name in one\.example/],
])('%s is one clear message', async (_what, args, status, says) => {
  const here = folder()
  expect(await run(here, 'recipe', 'write', ...args)).toMatchObject({ status, stderr: expect.stringMatching(says) })
  expect(read(here, 'one.example')).not.toContain('lodge')
})

test('below a name of the zone', async () => {
  const here = folder()
  const args = ['one.example', '--under', 'shop', '--fill', 'number=1', '--yes', '--force']
  expect(await run(here, 'recipe', 'write', 'lodge', ...args)).toMatchObject({ status: 0 })
  expect(read(here, 'one.example')).toMatch(/^shop\s.*MX\s+10 mail\.shop/m)
})

test('into several zones: all of them, or none', async () => {
  const here = folder()
  const call = ['recipe', 'write', 'lodge', '--in', '*.example', '--fill', 'number=1', '--yes', '--json']
  const open = await run(here, ...call)
  // In the second zone, other MX records are there.
  expect([open.status, open.json().counts]).toEqual([1, { written: 0, unchanged: 0, refused: 2 }])
  expect(read(here, 'one.example')).not.toContain('lodge')
  const done = await run(here, ...call, '--mx', 'add')
  expect([done.status, done.json().counts]).toEqual([0, { written: 2, unchanged: 0, refused: 0 }])
  expect([read(here, 'one.example'), read(here, 'two.example')].every((text) => text.includes('lodge'))).toBe(true)
  expect(read(here, 'three.test')).not.toContain('lodge')
  const again = await run(here, ...call, '--mx', 'add')
  expect([again.status, again.json().counts]).toEqual([0, { written: 0, unchanged: 2, refused: 0 }])
})

test('a recipe made of record sets that are there is written to another zone; it never replaces one', async () => {
  const here = folder({
    [zoneFile('one.example')]: `${HEAD}mail A 192.0.2.25\n@ MX 10 mail\n@ TXT "v=spf1 a:mail.one.example -all"\n`,
  })
  const call = ['recipe', 'from', 'one.example', '@', 'mail', '--label', 'own', '--json']
  const made = await run(here, ...call)
  expect([made.status, made.json().records.length, made.json().file]).toEqual([0, 3, 'recipes/own.yaml'])
  expect(await run(here, ...call)).toMatchObject({ status: 2, stderr: expect.stringContaining('already exists') })
  const fills = ['--fill', 'address=192.0.2.77', '--yes']
  expect(await run(here, 'recipe', 'write', 'own', 'three.test', ...fills)).toMatchObject({ status: 1 })
  const three = join(here, zoneFile('three.test'))
  writeFileSync(three, HEAD)
  expect(await run(here, 'recipe', 'write', 'own', 'three.test', ...fills)).toMatchObject({ status: 0 })
  expect(readFileSync(three, 'utf8')).toContain('a:mail.three.test')
})

describe('a recipe with mistakes', () => {
  test.each<[string, string, RegExp]>([
    [
      'an unknown key',
      LODGE.replace('title:', 'tittle:'),
      /lodge\.yaml:2:1: unknown key “tittle”; did you mean “title”/,
    ],
    ['a blank without a kind', LODGE.replace(', kind: number', ''), /lodge\.yaml:5:5: blanks\[1\]\.kind is missing/],
    ['an unknown kind', LODGE.replace('kind: number', 'kind: digits'), /must be name, address/],
    ['a record that does not parse', LODGE.replace('MX 10', 'MX'), /lodge\.yaml:7:5: record 1/],
    ['no YAML', 'label: [', /lodge\.yaml:1:\d+: not YAML/],
  ])('%s is told with its place, and nothing is written', async (_what, text, says) => {
    const here = folder({ 'recipes/lodge.yaml': text })
    expect(await run(here, 'recipe', 'write', 'lodge', 'one.example')).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(says),
    })
    expect(existsSync(join(here, 'log.jsonl'))).toBe(false)
  })
})

test.each(['recipes', 'demo/recipes'])('all of %s can be used', (shipped) =>
  expect(recipesIn(shipped, undefined).length).toBe(readdirSync(shipped).length),
)

test('every recipe that comes along makes a zone without an error', async () => {
  for (const recipe of recipesIn('recipes', undefined)) {
    const values = new Map(recipe.blanks.map((blank) => [blank.name, valueFor(blank, sampleOf(blank)) as string]))
    const made = fill(recipe, values, 'three.test.') as { rows: { owner: string; type: number; value: string }[] }
    const lines = made.rows.map(({ owner, type, value }) => `${owner} ${typeText(type)} ${value}\n`)
    const text = `${HEAD}${['mail', 'chat', 'sip'].map((each) => `${each} A 192.0.2.25\n`).join('')}${lines.join('')}`
    const zones = loadZones([{ zone: 'three.test.', file: 'three.test.zone', octets: octetsOf(text) }])
    const { findings } = await check(zones)
    expect([recipe.label, findings.filter(({ severity }) => severity === 'error')]).toEqual([recipe.label, []])
  }
})

describe('many zones', () => {
  const many = (): string =>
    folderWith({
      'bramblefront.yaml': 'zones: ["*.zone"]\n',
      ...Object.fromEntries(Array.from({ length: 9 }, (_, i) => [`z${i}.example.zone`, HEAD])),
      'z7.example.zone': `${HEAD}@ MX 10 mail.larkpost.example.\n`,
    })
  test('equal changes are shown once, with their number; what differs is asked about, and nothing is overwritten', async () => {
    const folder = many()
    const { status, stdout } = await run(folder, 'recipe', 'write', 'parked', '--in', 'z*', '--yes')
    expect(status).toBe(1)
    expect(stdout.match(/added +_dmarc/g)).toHaveLength(2)
    expect(stdout).toContain('in 7 other zones')
    expect(stdout).toMatch(/question +z7\.example\. has MX records/)
    expect(stdout.trimEnd().split('\n').at(-1)).toBe('9 zones: 8 ready, 1 open (z7.example). Nothing was written.')
    expect(readFileSync(join(folder, 'z1.example.zone'), 'utf8')).toBe(HEAD)
    const done = await run(folder, 'recipe', 'write', 'parked', '--in', 'z*', '--yes', '--mx', 'replace')
    expect([done.status, done.stdout.trimEnd().split('\n').at(-1)]).toEqual([0, '9 zones: 9 written.'])
  })

  test('the recipe of a domain without mail says what the command of that name does, to several names at once', async () => {
    const [one, other] = [many(), many()]
    await run(one, 'recipe', 'write', 'parked', '--in', 'z0*', '--in', 'z1*', '--in', 'z2*', '--yes')
    const all = await run(other, 'write', 'no-mail', 'z0.example', 'z1.example', 'z2.example')
    expect([all.status, all.stderr]).toEqual([0, ''])
    for (const zone of ['z0', 'z1', 'z2']) {
      const [a, b] = await Promise.all(
        [one, other].map((each) => run(each, 'show', `${zone}.example`, '--format', 'canonical')),
      )
      expect(a!.stdout.replace(/SOA.*/, '')).toBe(b!.stdout.replace(/SOA.*/, ''))
      expect(a!.stdout).toContain('v=DMARC1; p=reject')
    }
    // One change: the log has one id for all of them.
    const ids = readFileSync(join(other, 'log.jsonl'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line).id)
    expect(new Set(ids).size).toBe(1)
    expect(ids).toHaveLength(3)
  })
})

test('what an optional blank would fill is left out without a value, and is not asked for', async () => {
  const folder = folderWith({ 'bramblefront.yaml': 'zones: ["*.zone"]\n', 'z.example.zone': HEAD })
  const fills = ['exchange=mx1.larkpost.example.', 'senders=_spf.larkpost.example.', 'reports=d@z.example']
  const args = [...fills, 'selector=s1', 'key=s1.dkim.larkpost.example.'].flatMap((each) => ['--fill', each])
  const ran = await run(folder, 'recipe', 'write', 'mail-provider', 'z.example', ...args, '--yes', '--json')
  expect(ran.json()).toMatchObject({ blanks: [], written: true })
  expect(ran.json().rows.map(({ owner, type }: { owner: string; type: string }) => `${owner} ${type}`)).toEqual([
    'z.example. MX',
    'z.example. TXT',
    's1._domainkey.z.example. CNAME',
    '_dmarc.z.example. TXT',
  ])
  // Half of what belongs together is no record.
  const half = ['--fill', 'second-selector=s2', ...fills.flatMap((each) => ['--fill', each])]
  const open = await run(folder, 'recipe', 'write', 'mail-provider', 'z.example', ...half, '--dry-run', '--json')
  expect(open.json().rows.some(({ owner }: { owner: string }) => owner.startsWith('s2.'))).toBe(false)
})

test('whoever leaves a provider is told what of it stays in SPF', async () => {
  const zone = `${HEAD}@ MX 10 mx.quillwing.example.\n@ TXT "v=spf1 include:_spf.quillwing.example ~all"\n`
  const folder = folderWith({ 'bramblefront.yaml': 'zones: ["*.zone"]\n', 'z.example.zone': zone })
  const fills = ['exchange=mx1.larkpost.example.', 'senders=_spf.larkpost.example.', 'reports=d@z.example']
  const args = [...fills.flatMap((each) => ['--fill', each]), '--mx', 'replace', '--dry-run']
  const { stdout } = await run(folder, 'recipe', 'write', 'mail-provider', 'z.example', ...args)
  expect(stdout).toContain('bramblefront write spf z.example --remove include:_spf.quillwing.example')
})

/** Looking back and going back: `history`, `restore`, `diff`, on files, and at servers that are played on loopback. */
import { appendFileSync, cpSync, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { answering, serve } from '../../src/serve/sockets.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD, type Ran, run, runWith } from './program.ts'
import { open, world, ZONE } from './world.ts'

const FILE = `zones/${ZONE}.zone`
const CONFIG = 'zones: [zones/*.zone]\n'
const text = (folder: string): string => readFileSync(join(folder, FILE), 'utf8')
const lines = (folder: string): any[] =>
  readFileSync(join(folder, 'log.jsonl'), 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
/** A file but for its serial. */
const plain = (file: string): string => file.replace(/20\d{8}/, 'SERIAL')
const hours = (n: number): Record<string, string> => ({ BRAMBLEFRONT_AHEAD: String(n * 3600) })
const ofEntries = (ran: Ran): string[] =>
  ran
    .json()
    .entries.map(({ what, sets }: any) =>
      [what, ...sets.map((set: any) => `${set.owner.split('.')[0]} ${set.type}`)].join(' '),
    )

interface Story {
  folder: string
  adopted: string
}

let first: Promise<Story> | undefined
/** A zone that was brought in, changed an hour later, edited by hand, and changed again an hour after that: in a folder of its own. */
async function story(): Promise<Story> {
  const { folder, adopted } = await (first ??= played())
  const copy = folderWith()
  cpSync(folder, copy, { recursive: true })
  return { folder: copy, adopted }
}

async function played(): Promise<Story> {
  const folder = folderWith({
    'bramblefront.yaml': CONFIG,
    [`old/${ZONE}.zone`]: `; the line's own\n${HEAD}www A 192.0.2.1\nold A 192.0.2.9 ; for the kiosk\n`,
  })
  await run(folder, 'adopt', `old/${ZONE}.zone`)
  const adopted = text(folder)
  await runWith(folder, hours(1), 'remove', `old.${ZONE}`, 'A')
  appendFileSync(join(folder, FILE), 'by-hand A 192.0.2.77\n')
  await runWith(folder, hours(2), 'write', 'address', `www.${ZONE}`, '192.0.2.2')
  return { folder, adopted }
}

describe('what was done is told, and undone', () => {
  test('all of it: what a command did, what was edited by hand, of a zone and of a set', async () => {
    const { folder } = await story()
    const all = ['change www A', 'edited by-hand A', 'change old A', 'adopted']
    expect(ofEntries(await run(folder, 'history', ZONE, '--json'))).toEqual(all)
    expect(ofEntries(await run(folder, 'history', '--json'))).toEqual(all)
    expect(ofEntries(await run(folder, 'history', ZONE, 'old', 'A', '--json'))).toEqual(['change old A', 'adopted'])
    const [newest] = (await run(folder, 'history', ZONE, 'www', '--json')).json().entries
    expect(newest).toMatchObject({
      command: `write address www.${ZONE} 192.0.2.2`,
      sets: [{ before: { ttl: 3600, records: ['192.0.2.1'] }, after: { ttl: 3600, records: ['192.0.2.2'] } }],
    })
    appendFileSync(join(folder, FILE), 'late A 192.0.2.78\n')
    const { entries } = (await run(folder, 'history', ZONE, '--json')).json()
    expect([entries[0].id, entries[0].what, entries[0].sets[0].owner]).toEqual([null, 'edited', `late.${ZONE}.`])
    expect((await run(folder, 'history', 'nowhere.example')).status).toBe(2)
  })

  test('a set comes back, and what others did since stays', async () => {
    const { folder } = await story()
    const { id } = lines(folder).find(({ what }) => what === 'change')
    const asked = await runWith(folder, hours(3), 'restore', ZONE, 'old', 'A', '--from', id)
    expect([asked.status, text(folder).includes('old ')]).toEqual([1, false])
    const done = await runWith(folder, hours(3), 'restore', ZONE, 'old', 'A', '--from', id.slice(-6), '--yes', '--json')
    expect([done.status, done.json().written]).toEqual([0, true])
    for (const each of ['www A 192.0.2.2', 'by-hand A 192.0.2.77', 'old     A 192.0.2.9'])
      expect(text(folder)).toContain(each)
    expect(lines(folder).at(-1)).toMatchObject({ what: 'restored', sets: [{ owner: `old.${ZONE}.`, before: null }] })
    expect((await run(folder, 'restore', ZONE, 'old', 'A', '--from', id, '--yes')).stdout).toContain(
      'Nothing to change',
    )
  })

  test('the zone comes back with its comments, and with a later serial; twice is once', async () => {
    const { folder, adopted } = await story()
    const at = new Date(Date.now() + 1_800_000).toISOString().slice(0, 16)
    const serialOf = (file: string): number => Number(/20\d{8}/.exec(file)![0])
    const before = serialOf(text(folder))
    const done = await runWith(folder, hours(4), 'restore', ZONE, '--as-of', at, '--yes')
    expect(done.status).toBe(0)
    expect(plain(text(folder))).toBe(plain(adopted))
    expect(serialOf(text(folder))).toBeGreaterThan(before)
    expect((await runWith(folder, hours(4), 'restore', ZONE, '--as-of', at, '--yes')).stdout).toContain(
      'Nothing to change',
    )
    expect((await runWith(folder, hours(4), 'diff', ZONE, '--with', at)).status).toBe(0)
  })

  test('a state between a change and an edit by hand, of which there is no copy', async () => {
    const { folder } = await story()
    const at = new Date(Date.now() + 5_400_000).toISOString().slice(0, 16)
    const { sets } = (await runWith(folder, hours(4), 'diff', ZONE, '--with', at, '--json')).json()
    expect(sets.map(({ owner, change }: any) => `${owner.split('.')[0]} ${change}`)).toEqual([
      'www changed',
      'by-hand added',
    ])
  })

  test('a restore that would add an error is refused', async () => {
    const folder = folderWith({ 'bramblefront.yaml': CONFIG, [FILE]: `${HEAD}mail A 192.0.2.1\n@ MX 10 mail\n` })
    await run(folder, 'write', 'address', `mail2.${ZONE}`, '192.0.2.2')
    await run(folder, 'write', 'mx', ZONE, '10 mail2')
    const [first] = lines(folder)
    const before = text(folder)
    const refused = await run(folder, 'restore', ZONE, 'mail2', '--from', first.id, '--yes')
    expect([refused.status, text(folder)]).toEqual([1, before])
    expect((await run(folder, 'restore', ZONE, 'mail2', '--from', first.id, '--yes', '--force')).status).toBe(0)
  })

  test.each<[string, (copy: string) => void, RegExp]>([
    ['deleted', (copy) => rmSync(copy), /not there any more/],
    ['damaged', (copy) => writeFileSync(copy, 'x'), /changed or damaged/],
  ])('a backup that was %s: it is said, and nothing is touched', async (_what, harm, says) => {
    const { folder } = await story()
    const { id, backup } = lines(folder).find(({ what }) => what === 'change')
    harm(join(folder, backup))
    const before = text(folder)
    const ran = await run(folder, 'restore', ZONE, '--from', id, '--yes')
    expect([ran.status, text(folder)]).toEqual([2, before])
    expect(ran.stderr).toMatch(says)
  })

  test.each([
    [[], /--from ID .* --as-of/],
    [['--from', 'a1b2c3', '--as-of', '2026-01-01'], /give one of/],
    [['--from', 'a1b2c3'], /no entry a1b2c3/],
    [['--as-of', '2026-02-30'], /must be a time/],
    [['--as-of', '2199-01-01'], /in the future/],
    [['--as-of', '2020-01-01'], /it was brought into the workspace then/],
    [['nobody', '--as-of', '2026-01-01'], /it was brought into the workspace then/],
  ])(
    'restore %j',
    async (args, says) => {
      const { folder } = await story()
      const ran = await run(folder, 'restore', ZONE, ...args)
      expect(ran.status).toBe(2)
      expect(ran.stderr).toMatch(says)
    },
    20_000,
  )

  test('backups beyond the limits are shown, and removed when that is agreed to; never the newest', async () => {
    const { folder } = await story()
    const count = (): number => readdirSync(join(folder, 'backups', ZONE)).length
    expect([(await run(folder, 'history', '--prune')).status, count()]).toEqual([0, 3])
    writeFileSync(join(folder, 'bramblefront.yaml'), `${CONFIG}backups: {copies: 1}\n`)
    expect([(await run(folder, 'history', '--prune')).status, count()]).toEqual([1, 3])
    const { removed, backups } = (await run(folder, 'history', '--prune', '--yes', '--json')).json()
    expect([removed, backups.length, count()]).toEqual([true, 1, 2])
    const { id } = lines(folder).find(({ what }) => what === 'change')
    expect((await run(folder, 'restore', ZONE, '--from', id)).stderr).toMatch(/not there any more/)
  })
})

describe('what is intended, and what servers have', () => {
  test('set by set; published once all of them have all of it, which is remembered', async () => {
    const { folder, load, published } = await world('www A 192.0.2.1\nftp A 192.0.2.2\n')
    const diff = (...args: string[]): Promise<Ran> => run(folder, 'diff', ZONE, ...args)
    expect((await diff()).status).toBe(0)
    expect((await diff('--with', 'published')).status).toBe(2)
    await run(folder, 'confirm', ZONE)
    const entry = lines(folder).find(({ what }) => what === 'published')
    expect(existsSync(join(folder, entry.backup))).toBe(true)
    expect((await diff('--with', 'published')).status).toBe(0)
    await run(folder, 'confirm', ZONE)
    expect(lines(folder).filter(({ what }) => what === 'published')).toHaveLength(1)

    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.7')
    await run(folder, 'remove', `ftp.${ZONE}`, 'A')
    const both = await diff('--json')
    expect(both.status).toBe(1)
    const told = (ran: Ran): string[] =>
      ran
        .json()
        .sets.map((set: any) =>
          [set.owner.split('.')[0], set.change, set.missing, set.extra, set.server ?? ''].join(' '),
        )
    expect(told(both)).toEqual(['www changed 192.0.2.7 192.0.2.1 ', 'ftp removed  192.0.2.2 '])
    expect(told(await diff('--with', 'published', '--json')).sort()).toEqual(told(both).sort())
    load('198.51.100.53')
    expect(told(await diff('--json')).every((each) => each.includes('ns2'))).toBe(true)
    published()
    expect((await diff()).status).toBe(0)
  })

  test('by transfer, what nobody here knows of, too', async () => {
    const folder = folderWith({
      'bramblefront.yaml': CONFIG,
      [FILE]: `${HEAD}www A 192.0.2.1\n`,
      [`there/${ZONE}.zone`]: `${HEAD}www 60 A 192.0.2.1\nstranger A 192.0.2.9\n`,
    })
    const server = await serve(answering(loadZones(bareFiles([join(folder, `there/${ZONE}.zone`)]))))
    open.push(server)
    const ran = await run(folder, 'diff', ZONE, '--with', `127.0.0.1:${server.port}`, '--json')
    expect(ran.json()).toMatchObject({
      serial: { intended: 2026010101, other: 2026010101 },
      sets: [
        { owner: `www.${ZONE}.`, change: 'ttl', before: { ttl: 60 }, after: { ttl: 3600 } },
        { owner: `stranger.${ZONE}.`, change: 'removed', after: null },
      ],
    })
    const files = await run(folder, 'diff', FILE, '--with', `there/${ZONE}.zone`, '--json')
    expect(files.json().sets).toEqual(ran.json().sets)
  })

  test('nobody there: 3, and it is said', async () => {
    const folder = folderWith({ 'bramblefront.yaml': CONFIG, [FILE]: `${HEAD}www A 192.0.2.1\n` })
    const ran = await run(folder, 'diff', ZONE, '--with', '127.0.0.1:9', '--timeout', '0.3')
    expect(ran.status).toBe(3)
    expect(ran.stdout).toContain('127.0.0.1:9')
  })
})

test('a record that somebody removed by hand comes back by the call that history ends with', async () => {
  const folder = folderWith({ 'bramblefront.yaml': CONFIG, [FILE]: `${HEAD}www A 192.0.2.1\nkiosk A 192.0.2.9\n` })
  // Nothing in the log is about the kiosk but the edit itself.
  await runWith(folder, hours(1), 'write', 'address', `www.${ZONE}`, '192.0.2.2')
  writeFileSync(join(folder, FILE), text(folder).replace(/^kiosk.*\n/m, ''))
  await runWith(folder, hours(2), 'write', 'address', `www.${ZONE}`, '192.0.2.3')
  const { stdout } = await runWith(folder, hours(2), 'history', ZONE, 'kiosk', 'A')
  // Whoever edited it, it was not the command that noticed.
  expect(stdout).toContain('edited by hand')
  expect(stdout).not.toContain('bramblefront write')
  const [, call] = /bramblefront (restore .*)\n/.exec(stdout)!
  expect((await runWith(folder, hours(3), ...call!.split(' '), '--yes')).status).toBe(0)
  expect(text(folder)).toMatch(/^kiosk +A +192\.0\.2\.9$/m)
  expect(text(folder)).toMatch(/^www +A +192\.0\.2\.3$/m)
})

test('the messages of one publishing are one entry', async () => {
  const published = (id: string, run: string | undefined, owner: string, serial: number): string =>
    JSON.stringify({
      id,
      at: '2026-12-01T10:00:00.000Z',
      zone: `${ZONE}.`,
      what: 'published',
      by: 'update',
      delivery: 'upland',
      run,
      serial,
      sets: [[`${owner}.${ZONE}.`, 'A', 'd']],
      digest: 'd',
    })
  const folder = folderWith({
    'bramblefront.yaml': CONFIG,
    [FILE]: `${HEAD}www A 192.0.2.1\n`,
    'log.jsonl': `${[published('1-a', 'one', 'a', 5), published('2-b', 'one', 'b', 6), published('3-c', 'two', 'c', 7)].join('\n')}\n`,
  })
  const { entries } = (await run(folder, 'history', ZONE, '--json')).json()
  expect(entries.map(({ serial }: any) => serial)).toEqual([
    { before: 7, after: 7 },
    { before: 5, after: 6 },
  ])
})

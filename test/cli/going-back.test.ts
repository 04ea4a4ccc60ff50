/** Going back: what is known of a zone's past is given, and what is not is said. */
import { spawnSync } from 'node:child_process'
import { appendFileSync, readFileSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'

const ZONE = 'hollowmere.example'
const FILE = `zones/${ZONE}.zone`
const workspace = (lines = 'www A 192.0.2.1\nold A 192.0.2.9\n', more: Record<string, string> = {}): string =>
  folderWith({ 'bramblefront.yaml': 'zones: [zones/*.zone]\n', [FILE]: HEAD + lines, ...more })
const entries = async (folder: string, ...args: string[]) =>
  (await run(folder, 'history', ...args, '--json')).json().entries

describe('a moment', () => {
  test('before the first entry is refused with that time; at it, it is known', async () => {
    const folder = workspace()
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2', '--force')
    const [first] = await entries(folder, ZONE)
    const before = await run(folder, 'restore', ZONE, '--as-of', '2020-01-01', '--yes')
    expect([before.status, before.stderr]).toEqual([2, expect.stringContaining(first.at)])
    expect(before.stderr).toContain(`--from ${first.id}`)
    const [day, rest] = new Date(Date.parse(first.at) - 1).toISOString().split('T')
    expect((await run(folder, 'restore', ZONE, '--as-of', `${day}T${rest}`, '--yes')).status).toBe(2)
    expect((await run(folder, 'restore', ZONE, '--as-of', first.at, '--yes', '--force')).status).toBe(0)
    const way = (await run(folder, 'restore', ZONE, '--from', first.id, '--yes', '--force', '--json')).json()
    expect(way.sets[0].after.records).toEqual(['192.0.2.1'])
  })

  test('an entry of another zone is called by that zone', async () => {
    const folder = workspace(undefined, { 'zones/lakepass.example.zone': `${HEAD}www A 192.0.2.1\n` })
    await run(folder, 'write', 'address', 'www.lakepass.example', '192.0.2.2', '--force')
    const [{ id }] = await entries(folder, 'lakepass.example')
    const ran = await run(folder, 'restore', ZONE, '--from', id, '--yes')
    expect([ran.status, ran.stderr]).toEqual([2, expect.stringMatching(/is of lakepass\.example, not of this zone/)])
  })
})

describe('the call that history proposes brings back what was removed', () => {
  const proposed = async (folder: string, ...of: string[]): Promise<string[]> => {
    const { stdout } = await run(folder, 'history', ...of)
    return /bramblefront (restore .*)$/m.exec(stdout.replaceAll('\n', ' ').replace(/ +/g, ' ').trim())![1]!.split(' ')
  }
  test.each<[string, (folder: string) => unknown]>([
    [
      'by hand',
      (folder) => {
        const file = join(folder, FILE)
        writeFileSync(file, readFileSync(file, 'utf8').replace(/^old A.*\n/m, ''))
      },
    ],
    ['by a command', (folder) => run(folder, 'remove', `old.${ZONE}`, 'A', '--force')],
  ])('%s, whatever came behind it', async (_how, remove) => {
    const folder = workspace()
    await run(folder, 'write', 'address', `old.${ZONE}`, '192.0.2.10', '--force')
    await remove(folder)
    for (const more of [false, true]) {
      if (more) await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.3', '--force')
      const call = await proposed(folder, ZONE, 'old', 'A')
      const back = await run(folder, ...call, '--dry-run', '--force', '--json')
      expect([back.status, back.json().sets[0]?.after?.records]).toEqual([0, ['192.0.2.10']])
    }
  })
})

test('a file that was included is brought back as it was, though only the other one was changed by a command', async () => {
  const folder = workspace('www A 192.0.2.1\n$INCLUDE hosts\n', { 'zones/hosts': 'host A 192.0.2.40\n' })
  await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2', '--force')
  const [{ id }] = await entries(folder, ZONE)
  writeFileSync(join(folder, 'zones/hosts'), 'host A 192.0.2.41\n')
  const back = await run(folder, 'restore', ZONE, '--from', id, '--yes', '--force', '--json')
  const after = Object.fromEntries(
    back.json().sets.map(({ owner, after }: any) => [owner.split('.')[0], after.records]),
  )
  expect(after).toEqual({ www: ['192.0.2.1'], host: ['192.0.2.40'] })
})

const REVERSE = '0/25.2.0.192.in-addr.arpa'
test.each<[string[], number]>([
  [['show', REVERSE], 0],
  [['check', REVERSE], 0],
  [['check', `5.${REVERSE}`], 0],
  [['history', REVERSE], 0],
  [['sheet', REVERSE], 0],
  [['timing', REVERSE, '5', 'PTR'], 0],
  [['diff', REVERSE, '--with', 'zones/reverse.zone'], 0],
  [['write', 'record', `6.${REVERSE}`, 'PTR', 'mail.hollowmere.example.'], 0],
  [['publish', REVERSE, '--yes'], 0],
  [['confirm', REVERSE, '--at', '127.0.0.1:9', '--timeout', '0.2'], 3],
])('a reverse zone with a slash in its name (RFC 2317): %j', async (args, status) => {
  const folder = folderWith({
    'bramblefront.yaml': 'zones: [zones/*.zone]\ndeliveries: [{label: office, zones: ["*"], by: file, folder: .}]\n',
    'zones/reverse.zone': `$ORIGIN ${REVERSE}.\n${HEAD.replace('hostmaster', 'hostmaster.hollowmere.example.')}5 PTR mail.hollowmere.example.\n`,
  })
  const ran = await run(folder, ...args)
  expect([ran.status, ran.stderr]).toEqual([status, expect.not.stringContaining('cannot read')])
})

test('a digest of the zone that a change makes stale is told of; not where it is changed with it, or nothing is', async () => {
  const digest = `@ ZONEMD 2026010101 1 1 ${'ab'.repeat(48)}\n`
  const notes = async (folder: string, ...args: string[]): Promise<string> =>
    (await run(folder, ...args, '--force', '--json')).json().notes.join()
  const folder = workspace(`www A 192.0.2.1\n${digest}`)
  expect(await notes(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.1')).not.toContain('ZONEMD')
  expect(await notes(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')).toContain('RFC 8976')
  expect(await notes(folder, 'remove', ZONE, 'ZONEMD')).not.toContain('RFC 8976')
})

test('a file of another zone is not compared; one of this zone is', async () => {
  const folder = workspace(undefined, {
    'other.txt': `$ORIGIN lakepass.example.\n${HEAD}`,
    'same.txt': `$ORIGIN ${ZONE}.\n${HEAD}www A 192.0.2.1\nold A 192.0.2.9\n`,
  })
  const other = await run(folder, 'diff', ZONE, '--with', 'other.txt')
  expect([other.status, other.stderr]).toEqual([2, expect.stringMatching(/of the zone lakepass\.example, not of/)])
  expect((await run(folder, 'diff', ZONE, '--with', 'same.txt')).status).toBe(0)
})

describe('a long log', () => {
  test('is read in as much memory as a short one', async () => {
    const folder = workspace()
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2', '--force')
    const [line] = readFileSync(join(folder, 'log.jsonl'), 'utf8').split('\n')
    const big = JSON.stringify({ ...JSON.parse(line!), command: 'x'.repeat(4000) })
    // 100 MB.
    const piece = `${big}\n`.repeat(2500)
    for (let i = 0; i < 10; i++) appendFileSync(join(folder, 'log.jsonl'), piece)
    appendFileSync(join(folder, 'log.jsonl'), `${line}\n`)
    const program = resolve('dist/bramblefront.js')
    const { status, stdout, stderr } = spawnSync(
      process.execPath,
      ['--max-old-space-size=40', program, 'history', ZONE],
      { cwd: folder, encoding: 'utf8', env: { ...process.env, NO_COLOR: '1' } },
    )
    expect([status, stdout.split('\n')[0], stderr]).toEqual([0, expect.stringContaining('25002 entries'), ''])
  }, 60_000)

  test('read backwards has the lines that it has forwards, however they lie in its pieces', async () => {
    const { logBackwards, readLog } = await import('../../src/workspace/log.ts')
    const folder = workspace()
    const lines = Array.from({ length: 3000 }, (_, i) =>
      i % 50 === 0 ? 'cut off' : JSON.stringify({ i, zone: `z${i % 3}.`, text: 'x'.repeat((i * 7919) % 4000) }),
    )
    writeFileSync(join(folder, 'log.jsonl'), lines.join('\n'))
    expect([...logBackwards(folder)].reverse()).toEqual(readLog(folder))
    expect([...logBackwards(folder, 'z1.')].reverse()).toEqual(readLog(folder, ['z1.']))
  })
})

test('history has the serial of what was published, as the log has it', async () => {
  const folder = workspace()
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    'zones: [zones/*.zone]\ndeliveries: [{label: office, zones: ["*"], by: file, folder: .}]\n',
  )
  await run(folder, 'publish', ZONE, '--yes', '--force')
  const [published] = await entries(folder, ZONE)
  expect([published.what, published.serial]).toEqual(['published', { before: 2026010101, after: 2026010101 }])
  expect((await run(folder, 'history', ZONE)).stdout).toContain('serial 2026010101')
})

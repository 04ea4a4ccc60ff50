import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { folderWith, HEAD, type Ran, run, runWith } from './program.ts'

/** Every file below a folder, by its path; what backups are called says when, and is left out. */
function files(folder: string, below = ''): Map<string, string> {
  const found = new Map<string, string>()
  for (const name of readdirSync(join(folder, below)).sort()) {
    const path = join(below, name)
    if (statSync(join(folder, path)).isDirectory())
      for (const [each, text] of files(folder, path)) found.set(each, text)
    else if (!path.startsWith('backups/')) found.set(path, readFileSync(join(folder, path), 'latin1'))
  }
  return found
}

const ZONES = {
  'bramblefront.yaml': 'zones: [zones/*.zone]\n',
  'zones/hollowmere.example.zone': `${HEAD}$INCLUDE parts/hosts\n@ MX 10 mail\nwww CNAME mail.hollowmere.example\n`,
  'zones/parts/hosts': 'mail A 192.0.2.25\nold A 192.0.2.26\n',
  'old/lakepass.example.zone': `${HEAD}$INCLUDE parts/more\n`,
  'old/parts/more': 'pier A 192.0.2.27\n',
}
const COMMANDS: [string, Record<string, string>, string[]][] = [
  ['init', {}, ['init']],
  [
    'write, in the zone’s own file',
    ZONES,
    ['write', 'mx', 'hollowmere.example', '10 mail', '20 mx2.larkpost.example.'],
  ],
  ['write, in an included file', ZONES, ['write', 'address', 'old.hollowmere.example', '192.0.2.99']],
  ['write dkim, with a key', ZONES, ['write', 'dkim', 'hollowmere.example', '--selector', 's1', '--kind', 'ed25519']],
  ['write mta-sts, with a policy', ZONES, ['write', 'mta-sts', 'hollowmere.example', '--force']],
  ['remove', ZONES, ['remove', 'old.hollowmere.example', 'A']],
  ['check --fix', ZONES, ['check', '--fix', '--yes']],
  ['adopt', ZONES, ['adopt', '--file', 'old/lakepass.example.zone']],
]
const faulty = (folder: string, kind: string, at: number, args: string[]): Promise<Ran> =>
  runWith(
    folder,
    { NODE_OPTIONS: `--require ${resolve('test/cli/faults.cjs')}`, FAULT_KIND: kind, FAULT_AT: String(at) },
    ...args,
  )
/** What is another each time, or that a change brings: keys, ids, times. */
const plain = (text: string): string =>
  text
    .replace(/p=[\w+/=]+/g, 'p=')
    .replace(/-----[\s\S]*-----/g, 'PEM')
    .replace(/\b20\d{8,12}\b/g, 'SERIAL')
const described = (found: Map<string, string>): Record<string, string> =>
  Object.fromEntries([...found].map(([name, text]) => [name, plain(text)]))

describe.each(COMMANDS)('%s', (_what, given, args) => {
  test('writes all of it where the disk takes less at a time', async () => {
    const whole = folderWith(given)
    await run(whole, ...args)
    for (let at = 1; at < 30; at++) {
      const folder = folderWith(given)
      const { status, stderr } = await faulty(folder, 'short', at, args)
      if (stderr.includes('no such call')) return expect(at).toBeGreaterThan(1)
      expect(status).toBeLessThan(2)
      expect(described(files(folder))).toEqual(described(files(whole)))
    }
  })

  test('leaves each file as before or as after where the disk is full or fails', async () => {
    const whole = folderWith(given)
    await run(whole, ...args)
    const before = described(files(folderWith(given)))
    const after = described(files(whole))
    for (let at = 1; at < 60; at++) {
      const folder = folderWith(given)
      const kind = at % 2 ? 'ENOSPC' : 'EIO'
      const { status, stderr } = await faulty(folder, kind, at, args)
      if (stderr.includes('no such call')) return expect(at).toBeGreaterThan(1)
      const now = described(files(folder))
      for (const [name, text] of Object.entries(now)) expect([before[name], after[name]]).toContain(text)
      for (const name of Object.keys(before)) expect(now[name], name).toBeDefined()
      // Folders that cannot be synced do no harm once all is in its place.
      if (status !== 0 && status !== 1)
        expect(stderr).toMatch(kind === 'EIO' ? /the disk reports an error/ : /the disk is full/)
      else expect(now).toEqual(after)
    }
  })
})

const isRoot = process.getuid?.() === 0
describe.skipIf(!isRoot && !process.env.CI)('on a small file system', () => {
  const folder = folderWith({})
  const small = join(folder, 'small')
  afterAll(() => {
    if (existsSync(join(small, 'bramblefront.yaml'))) execFileSync('umount', [small])
  })
  test('a change that does not fit leaves the zone as it was', async () => {
    mkdirSync(small)
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=128k', 'tmpfs', small])
    const zone = `${HEAD}${Array.from({ length: 2000 }, (_, i) => `h${i} A 192.0.2.${i & 255}\n`).join('')}`
    mkdirSync(join(small, 'zones'))
    writeFileSync(join(small, 'bramblefront.yaml'), 'zones: [zones/*.zone]\n')
    writeFileSync(join(small, 'zones/hollowmere.example.zone'), zone)
    // Room for a part of the new file.
    writeFileSync(join(small, 'filler'), 'x'.repeat(128 * 1024 - zone.length - 24_000))
    const { status, stderr } = await run(small, 'write', 'address', 'new.hollowmere.example', '192.0.2.1')
    expect([status, stderr]).toEqual([2, expect.stringContaining('the disk is full')])
    expect(readFileSync(join(small, 'zones/hollowmere.example.zone'), 'utf8')).toBe(zone)
    expect(readdirSync(join(small, 'zones'))).toEqual(['hollowmere.example.zone'])
  })
})

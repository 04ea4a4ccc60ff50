import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import {
  between,
  folderOf,
  HARDSHIPS,
  hadNoSuchCall,
  killed,
  run as runFaulty,
  states,
  statesOfTwo,
  suspended,
} from '../../bench/hardships.ts'
import { folderWith, HEAD, run } from './program.ts'

/** Of the calls where it could be killed, one in so many is tried here; `npm run endure` tries them all. */
const EVERY = 23

describe.each(HARDSHIPS.filter(({ isLong }) => !isLong).map((each) => [each.what, each] as const))(
  '%s',
  (_what, hardship) => {
    const known = states(hardship)

    test('writes all of it where the disk takes less at a time', async () => {
      const { after } = await known
      for (let at = 1; ; at += 13) {
        const folder = folderOf(hardship.files)
        const ran = await runFaulty(folder, hardship.args, { kind: 'short', at })
        if (hadNoSuchCall(ran)) return expect(at).toBeGreaterThan(1)
        expect(ran.status).toBeLessThan(2)
        expect(between(folder, after, after)).toBeUndefined()
      }
    })

    test('is as before or as after where the disk is full or fails', async () => {
      const { before, after } = await known
      for (let at = 1; ; at += 13) {
        const folder = folderOf(hardship.files)
        const kind = at % 2 ? 'ENOSPC' : 'EIO'
        const ran = await runFaulty(folder, hardship.args, { kind, at })
        if (hadNoSuchCall(ran)) return expect(at).toBeGreaterThan(1)
        const failed = ran.status !== 0 && ran.status !== 1
        expect(between(folder, before, failed ? before : after), `${kind} at ${at}: ${ran.stderr}`).toBeUndefined()
        // Folders that cannot be synced do no harm once all is in its place.
        if (failed) expect(ran.stderr).toMatch(kind === 'EIO' ? /the disk reports an error/ : /the disk is full/)
      }
    })

    test('is as before or as after once it was killed, and another was called', async () => {
      const { before, after } = await known
      for (let at = 1 + (hardship.what.length % EVERY); ; at += EVERY) {
        const { ended, fault } = await killed(hardship, at, before, after)
        if (ended) return expect(at).toBeGreaterThan(1 + EVERY)
        expect(fault).toBeUndefined()
      }
    })
  },
)

test('who was suspended while another took the lock over says what came of it, and undoes nothing of the other’s', async () => {
  const hardship = HARDSHIPS.find(({ what }) => what.includes('own file'))!
  const known = await statesOfTwo(hardship)
  // The steps that others can see are the last third of the calls.
  for (let at = 38; ; at += 6) {
    const { ended, fault } = await suspended(hardship, at, known)
    expect(fault).toBeUndefined()
    if (ended) return expect(at).toBeGreaterThan(60)
  }
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

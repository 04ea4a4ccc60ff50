/** Random histories of a zone and of the server that it is published to: nothing of others is lost, nothing of ours is forgotten, and what is said of each set is so. */
import { describe, expect, test } from 'vitest'
import { nobodyElse } from '../servers/delivery.ts'
import { mayskip } from '../servers/servers.ts'
import { play } from './play.ts'
import { played, real } from './primaries.ts'

/** `npm run publishings` plays five thousand. */
const COUNT = Number(process.env.PUBLISHINGS ?? 300)
/** So many steps each; fewer in CI. */
const LENGTH = process.env.PUBLISHINGS ? 14 : 6
/** Calls that are cut short need a process each: of so many histories, one has them. */
const CUT_EVERY = process.env.PUBLISHINGS ? 1 : 3
/** At real servers, of each kind: `npm run publishings` plays a hundred. */
const REAL = process.env.PUBLISHINGS ? 100 : 10
const FROM = Number(process.env.SEED ?? 1)

test(`${COUNT} random histories at a primary that is played`, { timeout: 3_600_000 }, async () => {
  const said: Record<string, number> = {}
  const failures: string[] = []
  for (let seed = FROM; seed < FROM + COUNT && failures.length < 3; seed++) {
    const { failure, said: own } = await play(seed, {
      judged: played,
      length: LENGTH,
      without: seed % CUT_EVERY === 0 ? [] : ['cut', 'kill'],
    })
    if (failure !== undefined) failures.push(failure)
    for (const [word, count] of Object.entries(own)) said[word] = (said[word] ?? 0) + count
  }
  expect(failures.join('\n\n')).toBe('')
  if (process.env.PUBLISHINGS) console.log(said)
  // Each was said, and held against the model.
  for (const word of ['nothing', 'mine', 'theirs', 'conflict', 'cut']) expect(said[word], word).toBeGreaterThan(0)
})

describe.skipIf(mayskip('named', 'knotd') || nobodyElse())('at real servers', () => {
  test.each(['named', 'knotd'] as const)(`${REAL} random histories at %s`, { timeout: 3_600_000 }, async (program) => {
    const failures: string[] = []
    for (let seed = FROM; seed < FROM + REAL && failures.length < 3; seed++) {
      const { failure } = await play(seed, { judged: real(program), without: ['cut'], length: LENGTH, isOpen: true })
      if (failure !== undefined) failures.push(failure)
    }
    expect(failures.join('\n\n')).toBe('')
  })
})

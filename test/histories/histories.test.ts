import { expect, test, vi } from 'vitest'
import { play, replay, scriptOf } from './play.ts'

vi.mock('../../src/net/ask.ts', async () => ({ Asker: (await import('./asked.ts')).PlayedAsker }))
vi.mock('../../src/cli/clock.ts', async () => {
  const { CLOCK } = await import('./asked.ts')
  return { CLOCK, now: CLOCK.now, today: () => new Date(CLOCK.now() * 1000) }
})

/** `npm run histories` plays ten thousand; `HISTORY` begins with that one. */
const COUNT = Number(process.env.HISTORIES ?? 1000)
const FIRST = Number(process.env.HISTORY ?? 1)
const LENGTH = 16

test(`what is said in ${COUNT} random histories is so`, { timeout: 7_200_000 }, async () => {
  const failures: string[] = []
  const counts: Record<string, number> = {}
  for (let seed = FIRST; seed < FIRST + COUNT && failures.length < 3; seed++) {
    const { failure, held } = await play(seed, LENGTH)
    if (failure) failures.push(scriptOf(failure))
    for (const [word, count] of Object.entries(held)) counts[word] = (counts[word] ?? 0) + count
  }
  expect(failures.join('\n\n')).toBe('')
  // Every status was given, and held against the model.
  if (COUNT >= 1000)
    expect(Object.keys(counts).sort()).toEqual([
      'confirmed',
      'not-published',
      'overdue',
      'settling',
      'split',
      'unreachable',
      'wrong',
    ])
  if (process.env.HISTORIES) console.log(counts)
})

test('a history that is written down plays as it did', async () => {
  const { steps, held } = await play(7, LENGTH)
  expect((await replay(7, JSON.parse(JSON.stringify(steps)))).held).toEqual(held)
})

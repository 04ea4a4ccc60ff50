import { expect, test } from 'vitest'
import { play, replay, scriptOf } from './play.ts'

/** `npm run histories` plays ten thousand. */
const COUNT = Number(process.env.HISTORIES ?? 500)
const LENGTH = 50

test(`what is said in ${COUNT} random histories is so`, { timeout: 1_200_000 }, async () => {
  const failures: string[] = []
  const counts: Record<string, number> = {}
  for (let seed = 1; seed <= COUNT && failures.length < 3; seed++) {
    const { failure, held } = await play(seed, LENGTH)
    if (failure) failures.push(scriptOf(failure))
    for (const [word, count] of Object.entries(held)) counts[word] = (counts[word] ?? 0) + count
  }
  expect(failures.join('\n\n')).toBe('')
  // Every status was given, and held against the model.
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

/** Random histories of a zone and of the server that it is published to: nothing of others is lost, nothing of ours is forgotten, and what is said of each set is so. */
import { expect, test } from 'vitest'
import { play } from './play.ts'
import { played } from './primaries.ts'

/** `npm run publishings` plays five thousand. */
const COUNT = Number(process.env.PUBLISHINGS ?? 300)
const FROM = Number(process.env.SEED ?? 1)

test(`${COUNT} random histories at a primary that is played`, { timeout: 3_600_000 }, async () => {
  const said: Record<string, number> = {}
  const failures: string[] = []
  for (let seed = FROM; seed < FROM + COUNT && failures.length < 3; seed++) {
    const { failure, said: own } = await play(seed, { judged: played })
    if (failure !== undefined) failures.push(failure)
    for (const [word, count] of Object.entries(own)) said[word] = (said[word] ?? 0) + count
  }
  expect(failures.join('\n\n')).toBe('')
  if (process.env.PUBLISHINGS) console.log(said)
  // Each was said, and held against the model.
  for (const word of ['nothing', 'mine', 'theirs', 'conflict', 'cut']) expect(said[word], word).toBeGreaterThan(0)
})

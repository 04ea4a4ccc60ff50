/** That cost grows no faster than its input: processor time at n and at 4n, the best of three, on sizes that grow step by step so that even an exponential cost is seen in time. */
import { expect } from 'vitest'

/** Four times as much may take so many times as long. */
const MOST = 8
/** In milliseconds: below, the clock and the collector say more than the work. */
const FELT = 40

async function time(work: () => unknown): Promise<number> {
  let best = Number.POSITIVE_INFINITY
  for (let i = 0; i < 3 && best > FELT; i++) {
    const before = process.cpuUsage()
    await work()
    const { user, system } = process.cpuUsage(before)
    best = Math.min(best, (user + system) / 1000)
  }
  return best
}

/** `work(n)` makes the input outside what is measured, and returns what to measure. Up to `most`, four times as much each time. */
export async function growsLinearly(what: string, work: (n: number) => () => unknown, most: number): Promise<void> {
  // The first has nothing to be compared with: only what grows beyond all measure is seen in it.
  let before = 10 * FELT
  for (let n = 24; n <= most; n *= 4) {
    let took = await time(work(n))
    const isSlow = (): boolean => took > FELT && took / Math.max(before, FELT / 8) >= MOST
    // Another process may have had the processor’s caches: what is slow is slow again, beside a quarter that is measured again, too.
    for (let again = 0; again < 5 && isSlow(); again++) {
      if (n > 24) before = await time(work(n / 4))
      took = await time(work(n))
    }
    if (isSlow()) {
      expect.soft(took / before, `${what}: ${took} ms for ${n}, ${before} ms for a quarter`).toBeLessThan(MOST)
      break
    }
    before = took
  }
}

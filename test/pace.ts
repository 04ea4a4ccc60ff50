/** That cost grows no faster than its input: processor time at n and at 4n, the best of three, on sizes that grow step by step so that even an exponential cost is seen in time. */
import { expect } from 'vitest'

/** Four times as much may take so many times as long. */
const MOST = 8
/** In milliseconds: below, the clock and the collector say more than the work. */
const FELT = 40

async function time(work: () => unknown): Promise<number> {
  let best = Number.POSITIVE_INFINITY
  for (let i = 0; i < 3; i++) {
    const before = process.cpuUsage()
    await work()
    const { user, system } = process.cpuUsage(before)
    best = Math.min(best, (user + system) / 1000)
    if (best > 20 * FELT || best < FELT / 4) break
  }
  return best
}

/** `work(n)` makes the input outside what is measured, and returns what to measure. Up to `most`, doubled each time. */
export async function growsLinearly(what: string, work: (n: number) => () => unknown, most: number): Promise<void> {
  const times = new Map<number, number>()
  for (let n = 16; n <= most; n = n < 64 ? Math.ceil(n * 1.5) : n * 2) {
    const took = await time(work(n))
    times.set(n, took)
    // What stands two steps back has a quarter of it, or more.
    const before = [...times.values()].at(-3)
    const factor = before === undefined || took < FELT ? 0 : took / Math.max(before, FELT / 8)
    expect.soft(factor, `${what}: ${took} ms for ${n}, ${before} ms for a quarter`).toBeLessThan(MOST)
    if (factor >= MOST) break
  }
}

/** The one clock of the program: the system’s. */
import type { Clock } from '../core/clock.ts'

/** BRAMBLEFRONT_AHEAD: so many seconds are added, for trying out what will be said later (the demo does). Read once: the environment is slow to look at. */
const AHEAD = Number(process.env.BRAMBLEFRONT_AHEAD ?? 0) || 0

export const CLOCK: Clock = {
  now: () => Date.now() / 1000 + AHEAD,
  elapsed: () => performance.now(),
  after(ms, work) {
    const timer = setTimeout(work, ms)
    return () => clearTimeout(timer)
  },
}

/** Seconds since 1970. */
export const { now } = CLOCK

/** The same as a date. */
export const today = (): Date => new Date(now() * 1000)

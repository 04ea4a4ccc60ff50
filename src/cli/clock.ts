/** The time of day for what is said of waiting. Seconds since 1970. */

/** BRAMBLEFRONT_AHEAD: so many seconds are added, for trying out what will be said later (the demo does). */
export function now(): number {
  const ahead = Number(process.env.BRAMBLEFRONT_AHEAD ?? 0)
  return Date.now() / 1000 + (Number.isFinite(ahead) ? ahead : 0)
}

/** The same as a date. */
export const today = (): Date => new Date(now() * 1000)

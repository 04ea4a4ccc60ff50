/** Times and spans in words; times with their zone, which is UTC. */

/** `14:05:10 UTC`, with the day where that is not the day of `now`. Seconds since 1970. */
export function timeText(seconds: number, now: number): string {
  const [day, time] = new Date(Math.ceil(seconds) * 1000).toISOString().slice(0, 19).split('T')
  const today = new Date(now * 1000).toISOString().slice(0, 10)
  return `${day === today ? '' : `${day} `}${time} UTC`
}

/** `2026-11-23 14:05:10 UTC`. Seconds since 1970. */
export const momentText = (seconds: number): string => timeText(seconds, 0)

/** `45 s`, `12 min`, `3 h 20 min`, `2 d 4 h`. */
export function spanText(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds))
  if (whole < 120) return `${whole} s`
  const minutes = Math.round(whole / 60)
  if (minutes < 120) return `${minutes} min`
  const hours = Math.floor(minutes / 60)
  if (hours < 48) return minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} min`
  return hours % 24 === 0 ? `${hours / 24} d` : `${Math.floor(hours / 24)} d ${hours % 24} h`
}

const UNITS: Record<string, number> = { s: 1, m: 60, h: 3600, d: 86_400 }

/** Seconds of a span as it is typed: `90` or `90s`, `30m`, `2h30m`, `1d`; undefined where it is none. */
export function statedSpan(text: string): number | undefined {
  if (!/^(?:\d+|(?:\d+[smhd])+)$/.test(text)) return undefined
  const seconds = [...text.matchAll(/(\d+)([smhd]?)/g)].reduce(
    (sum, [, count, unit]) => sum + Number(count) * UNITS[unit || 's']!,
    0,
  )
  return seconds > 0 && seconds <= 366 * 86_400 ? seconds : undefined
}

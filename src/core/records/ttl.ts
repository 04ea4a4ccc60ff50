/** Times in seconds as zone files write them: `3600`, or with units, `1h30m` (weeks, days, hours, minutes, seconds). */

const UNIT: Record<number, number> = { 119: 604_800, 100: 86_400, 104: 3600, 109: 60, 115: 1 }

/** Reads a time from `start` up to `end`: seconds, up to 2^32−1, or -1 if it is none. */
export function parseTtl(octets: Uint8Array, start: number, end: number): number {
  let total = 0
  let value = -1
  let hasUnits = false
  for (let i = start; i < end; i++) {
    const digit = octets[i]! - 0x30
    if (digit >= 0 && digit <= 9) value = Math.max(value, 0) * 10 + digit
    else {
      const unit = UNIT[octets[i]! | 0x20]
      if (unit === undefined || value < 0) return -1
      total += value * unit
      value = -1
      hasUnits = true
    }
    if (total > 0xffffffff || value > 0xffffffff) return -1
  }
  // A number without a unit stands alone: behind others, servers refuse it.
  if (value >= 0 && hasUnits) return -1
  if (value >= 0) total += value
  return start === end || total > 0xffffffff ? -1 : total
}

/** The largest TTL (RFC 2181 §8). */
export const MAX_TTL = 0x7fffffff

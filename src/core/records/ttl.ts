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

/** Words that people have for the units, each with its seconds. */
const WORDS: readonly [RegExp, number][] = [
  [/^w(?:eeks?|k)?$/, 604_800],
  [/^d(?:ays?)?$/, 86_400],
  [/^h(?:ours?|rs?)?$/, 3600],
  [/^m(?:in(?:ute)?s?)?$/, 60],
  [/^s(?:ec(?:ond)?s?)?$/, 1],
]

/** A time as people type it: as zone files have it, or with words and parts, as in `1hour`, `5 min`, `1.5h`. Seconds, rounded; -1 if it is none. */
export function typedTtl(text: string): number {
  const plain = text.trim().toLowerCase()
  if (/^\d{1,10}$/.test(plain)) return Number(plain) > 0xffffffff ? -1 : Number(plain)
  if (!/^(?:\d{1,10}(?:\.\d{1,4})?\s?[a-z]{1,8}\s?){1,5}$/.test(plain)) return -1
  let total = 0
  for (const [, number, word] of plain.matchAll(/(?<![\d.])(\d{1,10}(?:\.\d{1,4})?)\s?([a-z]{1,8})/g)) {
    const unit = WORDS.find(([is]) => is.test(word!))?.[1]
    if (unit === undefined) return -1
    total += Number(number) * unit
  }
  return total > 0xffffffff ? -1 : Math.round(total)
}

/** The largest TTL (RFC 2181 §8). */
export const MAX_TTL = 0x7fffffff

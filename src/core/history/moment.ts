/** A moment as people state it. */

const FORM = /^(\d{4}-\d\d-\d\d)(?:[T ](\d\d:\d\d(?::\d\d(?:\.\d{1,3})?)?)(Z|[+-]\d\d:\d\d)?)?$/

/** Whether a text was meant as a moment, and not as the name of an entry, which begins with a day, too. */
export const isLikeMoment = (text: string): boolean => /^\d{4}-\d\d-\d\d(?:$|[T ]\d\d(?:$|:))/.test(text.trim())

/**
 * Seconds since 1970 of `2026-11-20` (its first second), `2026-11-20T14:00`, with seconds, and a `Z` or an offset from UTC behind it; UTC where it says nothing.
 * Undefined for what is no such moment, 2026-02-30 among them.
 */
export function statedMoment(text: string): number | undefined {
  const [whole, day, time = '00:00', zone = 'Z'] = FORM.exec(text.trim()) ?? []
  if (whole === undefined) return undefined
  const at = Date.parse(`${day}T${time}${zone}`)
  // A day that a month does not have runs over into the next one, or is refused.
  const isThere = !Number.isNaN(at) && new Date(Date.parse(`${day}T00:00Z`)).toISOString().startsWith(day!)
  return isThere ? at / 1000 : undefined
}

/** What the top of every zone must have. */
import type { Zone } from '../../model/zones.ts'
import type { Context } from '../rule.ts'

/** Whether nothing can be said of what is missing: the zone's records could not be read, or those of that type. */
export function unreadable(zone: Zone, type: number, cx: Context): boolean {
  return cx.zones.sources.some(
    (source) =>
      cx.zones.zones[source.zone] === zone &&
      (source.brokenTypes.includes(type) ||
        source.problems.some((p) => p.kind === 'binary' || p.kind === 'include' || p.kind === 'generate')),
  )
}

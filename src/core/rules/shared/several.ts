/** Policies of which a name may hold one only. */

import type { RecordId } from '../../model/zones.ts'
import { joined } from '../../records/views.ts'
import type { Context, SetView } from '../rule.ts'

/** The records of a TXT set whose text is such a policy, without repeats. */
export function policies(set: SetView, cx: Context, isOne: (text: string) => boolean): RecordId[] {
  const found = new Map<string, RecordId>()
  for (const record of set.records) {
    const text = joined(cx.zones.rdata(record))
    if (isOne(text) && !found.has(text)) found.set(text, record)
  }
  return [...found.values()]
}

/** Tells of more than one: at the second, with where the first is. */
export function reportSeveral(
  cx: Context,
  set: SetView,
  what: string,
  found: readonly RecordId[],
  fix = (first: RecordId): string => `keep only one, for instance: ${cx.name(set.owner)} ${cx.record(first)}`,
): void {
  if (found.length < 2) return
  cx.report({
    record: found[1],
    message: `${cx.name(set.owner)} has ${found.length} ${what}; the first is at ${cx.where(found[0]!, found[1])}`,
    fix: [fix(found[0]!)],
  })
}

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

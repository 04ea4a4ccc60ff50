/** How long sets are kept, how large their answers are, and in which class they stand. */

import { type RecordId, TTL_STATED, type Zone } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { typeText } from '../../records/types.ts'
import type { Context, Report, Rule } from '../rule.ts'
import { ODD_TTL } from '../traits.ts'

/** Whether a record is the first of its set. */
function leadsSet(cx: Context, record: RecordId): boolean {
  const { zones } = cx
  let first = zones.first(zones.owner(record))
  while (first !== NONE && zones.type(first) !== zones.type(record)) first = zones.next(first)
  return first === record
}

interface ByDefault {
  record: RecordId
  sets: number
}

/** A finding for each set whose TTL is such; of those that the default TTL gives theirs, one a zone. */
export function onTtl(
  isOne: (record: RecordId, cx: Context) => boolean,
  say: (set: string) => Omit<Report, 'record' | 'part'>,
): Rule['visit'] {
  const setText = (record: RecordId, { zones, name }: Context): string =>
    `${typeText(zones.type(record))} at ${name(zones.owner(record))}`
  return {
    record: {
      when: ODD_TTL,
      visit(record, cx) {
        const { zones } = cx
        if (!isOne(record, cx) || !leadsSet(cx, record)) return
        if (zones.flags(record) & TTL_STATED) {
          cx.report({ record, part: 'ttl', ...say(setText(record, cx)) })
          return
        }
        const byDefault = cx.memory(() => new Map<Zone, ByDefault>())
        const zone = zones.zoneOfRecord(record)
        const met = byDefault.get(zone)
        if (met) met.sets++
        else byDefault.set(zone, { record, sets: 1 })
      },
    },
    finish(cx) {
      for (const { record, sets } of cx.memory(() => new Map<Zone, ByDefault>()).values()) {
        const set = setText(record, cx)
        cx.report({
          record,
          part: 'type',
          ...say(sets === 1 ? set : `by the default TTL, ${set} and ${sets - 1} more ${sets === 2 ? 'set' : 'sets'}`),
        })
      }
    },
  }
}

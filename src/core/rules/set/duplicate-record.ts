import { GENERATED, type RecordId } from '../../model/zones.ts'
import type { Context, Repair, Rule, SetView } from '../rule.ts'
import { firstAlike } from './pairs.ts'

/** The set with each record once; the first repeat has it, since one change takes them all. Sets that stand in an include are left to the person. */
function withoutRepeats(set: SetView, cx: Context, firsts: readonly RecordId[]): Repair | undefined {
  const { zones } = cx
  if (set.records.some((record) => zones.flags(record) & GENERATED)) return undefined
  const kept = new Set(firsts)
  const change = {
    owner: cx.name(set.owner),
    type: set.type,
    ttl: zones.ttl(set.records[0]!),
    data: [...kept].map((record) => zones.rdata(record)),
  }
  return { zone: set.zone, change }
}

export const setDuplicateRecord: Rule = {
  code: 'set/duplicate-record',
  severity: 'warning',
  source: 'RFC 2181 §5',
  title: 'duplicate record',
  why: 'Servers keep only one of them. Someone who changes one and misses the other ends up with two different records.',
  remedy: 'Remove one of them.',
  bad: [
    'www A 192.0.2.10\nWWW A 192.0.2.10',
    '@ MX 10 mail\n@ MX 10 MAIL.hollowmere.example.\nmail A 192.0.2.25',
    'www CNAME site\nwww CNAME site\nsite A 192.0.2.10',
  ],
  good: ['www A 192.0.2.10\nwww A 192.0.2.11', '@ TXT "Proof"\n@ TXT "proof"'],
  visit: {
    several(set, cx) {
      const firsts = firstAlike(set, cx)
      if (firsts === set.records) return
      for (const [i, record] of set.records.entries()) {
        const same = firsts[i]!
        if (same === record) continue
        cx.report({
          record,
          message: `${cx.name(set.owner)} has ${cx.record(record)} twice; the first is at ${cx.where(same, record)}`,
          effect: 'Servers keep one of them.',
          fix: ['remove this line'],
          repair: withoutRepeats(set, cx, firsts),
        })
      }
    },
  },
}

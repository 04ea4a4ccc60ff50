import type { BudgetNode, KnownSpf } from '../../mail/spf/budget.ts'
import type { RecordId } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import type { Context } from '../rule.ts'
import { intendedSpf } from '../shared/spf-text.ts'

interface SpfMemory {
  /** The names that kept records include, in lower case. */
  included?: Set<string>
  /** The SPF records of names. */
  records: Map<string, KnownSpf>
  /** The budget that was worked out last. */
  budget?: { record: RecordId; budget: BudgetNode }
}

/** What the rules of SPF share during a walk. */
export const spfMemory = (cx: Context): SpfMemory => cx.memory((): SpfMemory => ({ records: new Map() }))

/** The SPF records of kept names, each looked up once: what one record includes, others do. */
export function recordsAt(cx: Context): (name: Name) => KnownSpf {
  const { records } = spfMemory(cx)
  return (name) => {
    let known = records.get(name)
    if (known === undefined) records.set(name, (known = intendedSpf(cx.zones, name)))
    return known
  }
}

/** Delegations: name servers, their addresses, and what parent and child say of one another. */

import type { RecordId, Zone } from '../../model/zones.ts'
import { TYPE } from '../../records/types.ts'
import { parentZone } from '../look.ts'
import type { Context } from '../rule.ts'

/** The delegation of a kept zone by its kept parent, at most one. */
export function delegationOf(cx: Context, child: Zone): { child: Zone; records: RecordId[] }[] {
  const parent = parentZone(cx.zones, child)
  return parent && cx.isAbout(child.apex)
    ? [{ child, records: cx.zones.records(child.apex, TYPE.NS, parent.index) }]
    : []
}

/** Where other records lead: service bindings, rewriting rules, SPF terms, report addresses, and tops that follow a name. */

import { MISSING } from '../../knowledge/answer.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { addressesAt } from '../look.ts'
import type { Context } from '../rule.ts'

export function missing(cx: Context, record: RecordId, part: number): void {
  const target = cx.zones.target(record)
  cx.report({
    record,
    part,
    message: `${typeText(cx.zones.type(record))} at ${cx.name(cx.zones.owner(record))} points to ${cx.name(target)}, which does not exist in ${cx.zones.zoneOf(target)!.name}`,
    effect: 'Whoever follows it gets NXDOMAIN.',
    fix: ['write the target’s records, or point the record at the right name'],
  })
}

/** Why a domain takes no mail, in words; undefined where it does, or nothing is known. */
export function takesNoMail(zones: Zones, node: NameId): string | undefined {
  if (node === MISSING) return 'does not exist'
  if (node < 0 || zones.hasCname(node) || zones.cut(node) !== NONE) return undefined
  const exchanges = zones.records(node, TYPE.MX)
  if (exchanges.length > 0)
    return exchanges.every((record) => zones.target(record) === ROOT) ? 'takes no mail (MX 0 .)' : undefined
  if (zones.zoneOf(node)?.complete === false) return undefined
  return addressesAt(zones, node).length > 0 ? undefined : 'has neither MX nor an address'
}

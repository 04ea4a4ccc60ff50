/** Services: their names, ports, shares, and whether owner and target belong together. */
import type { RecordId, Zones } from '../../model/zones.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { srv } from '../../records/views.ts'
import type { Context, Rule, SetView, SetVisit } from '../rule.ts'

export const priority = (zones: Zones, record: RecordId): number => srv(zones.rdata(record)).priority

export const weight = (zones: Zones, record: RecordId): number => srv(zones.rdata(record)).weight

export const port = (zones: Zones, record: RecordId): number => srv(zones.rdata(record)).port

export const isNone = (zones: Zones, record: RecordId): boolean => zones.target(record) === ROOT

export const onSrv = (when: number, visit: SetVisit): Rule['visit'] => ({ set: { [TYPE.SRV]: { when, visit } } })

/** The service of an owner `_service._protocol.name`, without its underscore; undefined where the owner is not made so. One text for one label: owners are many, services few. */
export function serviceOf(set: SetView, cx: Context): string | undefined {
  const { tree } = cx.zones
  if (tree.labelOctet(set.owner, 0) !== 0x5f || tree.labelOctet(tree.parent(set.owner), 0) !== 0x5f) return undefined
  return tree.labelText(set.owner).slice(1)
}

/** Which deliveries of bramblefront.yaml are a zone's, and which of them must not have it. */
import type { Zone } from '../core/model/zones.ts'
import { bare } from '../core/names/name.ts'
import { namePattern } from '../core/names/pattern.ts'
import type { Delivery } from './config.ts'

export type DeliveredZone = Pick<Zone, 'name' | 'view' | 'audience'>

/** How a zone gets to its servers; with a label, only that way. A delivery for another view is none of them. */
export const deliveriesFor = (
  { name, view }: Pick<Zone, 'name' | 'view'>,
  deliveries: readonly Delivery[],
  labelled?: string,
): Delivery[] =>
  deliveries.filter(
    (each) =>
      (labelled === undefined || each.label === labelled) &&
      (view === undefined || each.view === undefined || each.view === view) &&
      each.zones.some((pattern) => namePattern(pattern)(name)),
  )

/** Why a zone must not go by a delivery: what is for some is not for all. Undefined where it may. */
export function withheld({ name, view, audience }: DeliveredZone, delivery: Delivery): string | undefined {
  const { label } = delivery
  if (view !== undefined && delivery.view === undefined)
    return `${bare(name)} is the view “${view}”, and the delivery ${label} names no view: add “view: ${view}” to it in bramblefront.yaml if it is for this one`
  const isForIt = delivery.audience === 'private' || (delivery.audience === undefined && view !== undefined)
  if (audience === 'private' && !isForIt)
    return `${bare(name)} is private (audience: in bramblefront.yaml), and the delivery ${label} is not: add “audience: private” to it if only those who may see this zone ask there`
  return undefined
}

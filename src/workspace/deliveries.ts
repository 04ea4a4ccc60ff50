/** Which deliveries of bramblefront.yaml are a zone's. */
import type { Name } from '../core/names/name.ts'
import { namePattern } from '../core/names/pattern.ts'
import type { Delivery } from './config.ts'

/** How a zone gets to its servers; with a label, only that way. */
export const deliveriesFor = (zone: Name, deliveries: readonly Delivery[], labelled?: string): Delivery[] =>
  deliveries.filter(
    ({ label, zones }) =>
      (labelled === undefined || label === labelled) && zones.some((pattern) => namePattern(pattern)(zone)),
  )

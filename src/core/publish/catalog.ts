/** Keeping a catalog zone (RFC 9432) in step with the zones that a delivery has. */
import { createHash } from 'node:crypto'
import type { SetChange } from '../file/edit/changes.ts'
import { membersOf } from '../knowledge/catalog-zone.ts'
import type { Zone, Zones } from '../model/zones.ts'
import { bare, foldName, isAtOrBelow, type Name, nameToWire } from '../names/name.ts'
import { TYPE } from '../records/types.ts'

/** What a catalog zone without zones holds; `serial` is its first. */
export const emptyCatalog = (zone: Name, serial: number): string =>
  `; A catalog zone (RFC 9432): lists the zones that servers are to serve. Kept in step by bramblefront publish.
$ORIGIN ${zone}
$TTL 0
@ SOA invalid. invalid. ${serial} 3600 600 2147483646 0
@ NS invalid.
version TXT "2"
`

export interface CatalogChange {
  added: Name[]
  removed: Name[]
  sets: SetChange[]
}

/**
 * What makes it list these zones, and (unless `keepsOthers`) no others: servers drop a zone that is listed no longer. Labels that are there stay; a zone that comes gets one made of its name, so that it is
 * the same wherever it is made.
 */
export function catalogChange(
  zones: Zones,
  catalog: Zone,
  wanted: readonly Name[],
  keepsOthers: boolean,
): CatalogChange {
  const listed = membersOf(zones, catalog)
  const there = new Set(listed.values())
  const is = new Set(wanted.map(foldName))
  const added = [...is].filter((zone) => !there.has(zone))
  const gone = keepsOthers ? [] : [...listed].filter(([, zone]) => !is.has(zone)).map(([owner]) => owner)
  const removed = gone.map((owner) => listed.get(owner)!)
  const sets = added.map(
    (zone): SetChange => ({
      owner: `${labelOf(zone)}.zones.${catalog.name}`,
      type: TYPE.PTR,
      ttl: 0,
      data: [nameToWire(zone) as Uint8Array],
    }),
  )
  // Properties of a zone are below its label, and go with it.
  const below = new Map<string, SetChange>()
  for (const record of zones.recordsIn(catalog)) {
    const owner = foldName(zones.tree.text(zones.owner(record)))
    const type = zones.type(record)
    if (gone.some((each) => isAtOrBelow(owner, each))) below.set(`${owner} ${type}`, { owner, type, data: [] })
  }
  return { added, removed, sets: [...sets, ...below.values()] }
}

const labelOf = (zone: Name): string => createHash('sha256').update(bare(zone)).digest('hex').slice(0, 16)

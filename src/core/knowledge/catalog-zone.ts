/** Catalog zones (RFC 9432): zones that list other zones, for servers to serve. */
import { DROPPED, type Zone, type Zones } from '../model/zones.ts'
import { foldName, type Name, nameToWire, wireToName } from '../names/name.ts'
import { NONE } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'

/** Whether a zone is meant as a catalog: it has the version property (RFC 9432 §4.2.1), and the name server that no other zone has, “invalid.” (§4.1). */
export function isCatalogZone(zones: Zones, zone: Zone): boolean {
  const name = nameAt(zones, `version.${zone.name}`)
  if (name === undefined || !zones.has(name, TYPE.TXT)) return false
  const ns = zones.set(zone.apex, TYPE.NS, zone.index)
  return ns?.data.every((data) => foldName(wireToName(data)) === 'invalid.') === true
}

/** The zones that it lists, by the owners of their PTR records (RFC 9432 §4.1), both in lower case. */
export function membersOf(zones: Zones, zone: Zone): Map<Name, Name> {
  const found = new Map<Name, Name>()
  const above = nameAt(zones, `zones.${zone.name}`)
  if (above === undefined) return found
  for (const record of zones.recordsIn(zone)) {
    if (zones.type(record) !== TYPE.PTR || zones.tree.parent(zones.owner(record)) !== above) continue
    if (zones.flags(record) & DROPPED) continue
    const owner = foldName(zones.tree.text(zones.owner(record)))
    found.set(owner, foldName(wireToName(zones.rdata(record))))
  }
  return found
}

function nameAt(zones: Zones, name: Name): number | undefined {
  const wire = nameToWire(name)
  const id = typeof wire === 'string' ? NONE : zones.tree.findWire(wire)
  return id < 0 ? undefined : id
}

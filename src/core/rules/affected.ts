/** Which names a change of record sets can make right or wrong: for checking these alone before and after it. */

import { nameToWire } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'
import type { SetChange } from '../zone/edit.ts'
import type { Zone, Zones } from '../zone/zones.ts'

const STAR = octetsOf('*')
/** Hosts at which MX is looked for when the domain has none. */
const MAIL_HOSTS = ['mail', 'mx', 'smtp'].map(octetsOf)

/**
 * The changed names; what points to them, or to a name above them (which may exist only because of them); and, where a wildcard, a cut or a DNAME changes, or a name
 * comes to exist or ceases to (a wildcard answers below names that do not exist only, RFC 4592 §3.3.1), whatever stands in its reach or points there. To be asked before the change: names that it brings are made known here.
 */
export function affectedBy(zones: Zones, zone: Zone, changes: readonly SetChange[]): Set<NameId> {
  const { tree } = zones
  const known = tree.count
  const owners = changes.map((change) => tree.internWire(nameToWire(change.owner) as Uint8Array))
  const pointedTo = new Set<NameId>()
  const reaches: NameId[] = []
  changes.forEach((change, i) => {
    for (let name = owners[i]; name !== NONE && tree.isAtOrBelow(name, zone.apex); name = tree.parent(name)) pointedTo.add(name)
    if (tree.isWildcard(owners[i])) reaches.push(tree.parent(owners[i]))
    else if (change.type === TYPE.NS || change.type === TYPE.DNAME) reaches.push(owners[i])
    const turning = change.data.length > 0 ? comingToExist(zones, zone, owners[i]) : ceasingToExist(zones, zone, owners[i], changes, owners)
    if (turning !== NONE) reaches.push(turning)
  })
  const affected = new Set(owners)
  changes.forEach((change, i) => {
    // A wildcard beside the name, or beside one above it, may not answer there any more, or again.
    for (let name = owners[i]; name !== zone.apex && name > ROOT; name = tree.parent(name)) add(tree.find(tree.parent(name), STAR, 0, 1))
    if (change.type === TYPE.MX) for (const label of MAIL_HOSTS) add(tree.find(owners[i], label, 0, label.length))
  })
  function add(name: NameId): void {
    if (name !== NONE) affected.add(name)
  }
  for (let record = 0; record < zones.count; record++) {
    const target = zones.target(record)
    if (target !== NONE && (pointedTo.has(target) || reaches.some((reach) => tree.isAtOrBelow(target, reach)))) affected.add(zones.owner(record))
    else if (reaches.length > 0 && reaches.some((reach) => tree.isAtOrBelow(zones.owner(record), reach))) affected.add(zones.owner(record))
  }
  // What is asked of a name needs its place in the zones.
  if (tree.count > known) zones.sealNames()
  return affected
}

/** The highest name, from one upwards, that does not exist yet, or NONE. */
function comingToExist(zones: Zones, zone: Zone, owner: NameId): NameId {
  let highest = NONE
  for (let name = owner; name !== zone.apex && !zones.exists(name); name = zones.tree.parent(name)) highest = name
  return highest
}

/** The highest name, from one upwards, at or below which nothing is left once the changes that remove whole sets are made, or NONE. */
function ceasingToExist(zones: Zones, zone: Zone, owner: NameId, changes: readonly SetChange[], owners: readonly NameId[]): NameId {
  const { tree } = zones
  const chain: NameId[] = []
  for (let name = owner; name !== zone.apex; name = tree.parent(name)) chain.push(name)
  const goes = (record: number): boolean =>
    changes.some((change, i) => change.data.length === 0 && owners[i] === zones.owner(record) && change.type === zones.type(record))
  let alive = chain.length
  for (let record = 0; record < zones.count && alive > 0; record++) {
    if (zones.zoneOfRecord(record) !== zone) continue
    for (let i = 0; i < alive; i++) if (tree.isAtOrBelow(zones.owner(record), chain[i]) && !goes(record)) alive = i
  }
  return alive > 0 ? chain[alive - 1] : NONE
}

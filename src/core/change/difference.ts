/** Where two states of a zone differ, set by set. */

import { DROPPED, type RecordSet, type Zone, type Zones } from '../model/zones.ts'
import { foldName } from '../names/name.ts'
import { rdataKey } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import type { SetPreview } from './change-set.ts'

/** The sets that differ in TTL or data (in canonical form), in the order of the second state, those that are gone last. The SOA record is left out. */
export function differingSets(before: Zones, zoneBefore: Zone, after: Zones, zoneAfter: Zone): SetPreview[] {
  const then = setsOf(before, zoneBefore)
  const found: SetPreview[] = []
  for (const [key, set] of setsOf(after, zoneAfter)) {
    const other = then.get(key)
    then.delete(key)
    if (!other || !isSame(other, set)) found.push({ owner: set.owner, type: set.type, before: other, after: set })
  }
  for (const set of then.values()) found.push({ owner: set.owner, type: set.type, before: set })
  return found
}

/** The sets of a zone, by owner and type. */
function setsOf(zones: Zones, zone: Zone): Map<string, RecordSet> {
  const records = new Map<string, number[]>()
  for (const record of zones.recordsIn(zone)) {
    const type = zones.type(record)
    if (type === TYPE.SOA || zones.flags(record) & DROPPED) continue
    const key = `${foldName(zones.tree.text(zones.owner(record)))} ${type}`
    const there = records.get(key)
    if (there) there.push(record)
    else records.set(key, [record])
  }
  return new Map([...records].map(([key, each]) => [key, zones.setOf(each)]))
}

function isSame(a: RecordSet, b: RecordSet): boolean {
  if (a.ttl !== b.ttl) return false
  const keys = new Set(a.data.map((data) => rdataKey(a.type, data)))
  return (
    keys.size === new Set(b.data.map((data) => rdataKey(b.type, data))).size &&
    b.data.every((data) => keys.has(rdataKey(b.type, data)))
  )
}

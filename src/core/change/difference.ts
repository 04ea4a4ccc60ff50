/** Where two states of a zone differ, set by set. */

import { DROPPED, type RecordSet, type Zone, type Zones } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { NONE } from '../names/tree.ts'
import { rdataKey } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { RecordSetView } from '../view/record-set.ts'
import type { SetPreview } from './change-set.ts'

/** The sets of a zone, by `setKey`. */
export type Sets = ReadonlyMap<string, RecordSet>

export const setKey = ({ owner, type }: { owner: Name; type: number }): string => `${foldName(owner)} ${type}`

/** The sets that differ in TTL or data (in canonical form), in the order of the second state, those that are gone last. The SOA record is left out. */
export const differingSets = (before: Zones, zoneBefore: Zone, after: Zones, zoneAfter: Zone): SetPreview[] =>
  differences(setsOf(before, zoneBefore), setsOf(after, zoneAfter))

/** The same, of sets. */
export function differences(before: Sets, after: Sets): SetPreview[] {
  const found: SetPreview[] = []
  for (const [key, set] of after) {
    const other = before.get(key)
    if (!sameSet(other, set)) found.push({ owner: set.owner, type: set.type, before: other, after: set })
  }
  for (const [key, set] of before)
    if (!after.has(key)) found.push({ owner: set.owner, type: set.type, before: set, after: undefined })
  return found
}

/** The sets of a zone, without the SOA record. */
export function setsOf(zones: Zones, zone: Zone): Map<string, RecordSet> {
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

/** The SOA record of a zone as a set. */
export const soaOf = (zones: Zones, zone: Zone): RecordSet | undefined =>
  zone.soa === NONE ? undefined : zones.setOf([zone.soa])

/** The same with another serial. */
export function withSerial(soa: RecordSet, serial: number): RecordSet {
  const data = soa.data[0]!.slice()
  new DataView(data.buffer).setUint32(data.length - 20, serial)
  return { ...soa, data: [data] }
}

/** The records of a set that another of its type does not have. */
export function without({ type, data }: RecordSet, other: RecordSet | undefined): Uint8Array[] {
  const keys = new Set(other?.data.map((each) => rdataKey(type, each)))
  return data.filter((each) => !keys.has(rdataKey(type, each)))
}

/** Whether sets have the same TTL and the same data; two that are not there are the same. */
export function sameSet(a: RecordSet | undefined, b: RecordSet | undefined): boolean {
  return a === undefined || b === undefined ? a === b : a.ttl === b.ttl && sameData(a, b)
}

function sameData(a: RecordSet, b: RecordSet): boolean {
  const keys = new Set(a.data.map((data) => rdataKey(a.type, data)))
  return (
    keys.size === new Set(b.data.map((data) => rdataKey(b.type, data))).size &&
    b.data.every((data) => keys.has(rdataKey(b.type, data)))
  )
}

/** How a set became another one, and by which values (in presentation form). */
export interface Difference {
  change: 'added' | 'removed' | 'changed' | 'ttl'
  /** Values that it has afterwards, and had not; and those that it had, and has no longer. */
  missing: string[]
  extra: string[]
}

export function differenceIn({ before, after }: SetPreview): Difference {
  const valuesBut = (set: RecordSet | undefined, other: RecordSet | undefined): string[] =>
    set ? new RecordSetView({ ...set, data: without(set, other) }).values : []
  const missing = valuesBut(after, before)
  const extra = valuesBut(before, after)
  const change = !before ? 'added' : !after ? 'removed' : missing.length + extra.length > 0 ? 'changed' : 'ttl'
  return { change, missing, extra }
}

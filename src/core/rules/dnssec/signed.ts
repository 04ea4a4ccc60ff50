/** Signed zones: signatures, keys and what the parent says of them. */

import type { RecordId, Zone } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import type * as Verify from '../../records/dnssec/verify.ts'
import { TYPE } from '../../records/types.ts'
import { typeCovered } from '../../records/views.ts'
import type { Context, Rule } from '../rule.ts'

/** Every set that the zone's own file holds and answers for, with the signatures that cover it. */
export function* signedSets(
  cx: Context,
  zone: Zone,
): Generator<{ owner: NameId; type: number; records: RecordId[]; signatures: RecordId[] }> {
  const { zones } = cx
  const seen = new Set<NameId>()
  const { firstRecord, endRecord } = cx.sourcesOf(zone)[0]!
  for (let record = firstRecord; record < endRecord; record++) {
    const owner = zones.owner(record)
    if (seen.has(owner) || zones.zoneOf(owner) !== zone || !cx.isAbout(owner)) continue
    seen.add(owner)
    const byType = new Map<number, { records: RecordId[]; signatures: RecordId[] }>()
    const at = (type: number): { records: RecordId[]; signatures: RecordId[] } => {
      let found = byType.get(type)
      if (!found) byType.set(type, (found = { records: [], signatures: [] }))
      return found
    }
    for (let each = zones.first(owner); each !== NONE; each = zones.next(each)) {
      if (zones.zoneOfRecord(each) !== zone) continue
      if (zones.type(each) === TYPE.RRSIG) at(typeCovered(zones.rdata(each))).signatures.push(each)
      else at(zones.type(each)).records.push(each)
    }
    for (const [type, found] of byType) yield { owner, type, ...found }
  }
}

export const keysOf = ({ zones }: Context, zone: Zone): Uint8Array[] =>
  zones.records(zone.apex, TYPE.DNSKEY, zone.index).map((record) => zones.rdata(record))

/** Visits such zones with what verifies signatures and digests, which is loaded only if there is one. */
export function eachSigned(
  isOne: (zone: Zone, cx: Context) => boolean,
  visit: (verify: typeof Verify, zone: Zone, cx: Context) => void,
): Rule['visit'] {
  return {
    zone(zone, cx) {
      if (isOne(zone, cx)) cx.memory((): Zone[] => []).push(zone)
    },
    async finish(cx) {
      const zones = cx.memory((): Zone[] => [])
      if (zones.length === 0) return
      const verify = await import('../../records/dnssec/verify.ts')
      for (const zone of zones) visit(verify, zone, cx)
    },
  }
}

export const whole = (text: string, now = '2026-11-23T08:00:00Z') => ({
  whole: true,
  zones: { 'hollowmere.example': text },
  around: { now: new Date(now) },
})

import type { RecordId, Zones } from '../../model/zones.ts'
import { nameToWire } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Plan } from './plan.ts'
import { mover } from './splices.ts'
import type { Settled } from './verify.ts'

/** Types that make a name a cut, an alias or a zone's top. */
const SHAPING = new Set<number>([TYPE.NS, TYPE.CNAME, TYPE.DNAME, TYPE.SOA])

/** Makes the zones what they are after the change. */
export function settle(plan: Plan, settled: readonly Settled[], edited: ReadonlyMap<number, Uint8Array>): void {
  const { zones, zone } = plan
  const owners = settled.map(({ record, scratch, from, planned, source }) => ({
    record,
    planned,
    source,
    ttl: scratch.ttl(from),
    data: scratch.rdata(from).slice(),
    start: scratch.start(from),
    flags: scratch.flags(from),
    target: targetOf(zones, scratch, from),
  }))
  for (const [source, octets] of edited) {
    zones.moveStarts(source, mover(plan.splices.filter((splice) => splice.source === source)))
    zones.sources[source]!.octets = octets
  }
  for (const record of plan.gone) zones.drop(record)
  for (const { record, planned, source, ttl, data, start, flags, target } of owners) {
    if (!planned) zones.alter(record, ttl, data, target, start, flags)
    else {
      const at = zones.data.length
      zones.data.put(data)
      zones.addRecord(planned.owner, planned.type, ttl, 1, source, start, at, target, flags)
    }
  }
  if (plan.gone.has(zone.soa)) zone.soa = NONE
  const came = owners.flatMap(({ planned }) => (planned ? [planned] : []))
  // Where names only come to exist, nothing else moves.
  if (plan.gone.size > 0 || came.some(({ type }) => SHAPING.has(type))) zones.seal()
  else {
    zones.sealNames()
    for (const { owner } of came) zones.markExisting(owner, zone)
  }
}

function targetOf(zones: Zones, scratch: Zones, record: RecordId): NameId {
  const target = scratch.target(record)
  return target === NONE ? NONE : zones.tree.internWire(nameToWire(scratch.tree.text(target)) as Uint8Array)
}

/** An owner that follows a name: its addresses are written where a CNAME cannot be (RFC 1912 §2.4). */
import type { SetChange } from '../file/edit/changes.ts'
import type { Knowledge } from '../knowledge/find.ts'
import { UNANSWERED } from '../knowledge/find.ts'
import { setAt, type Zone, type Zones } from '../model/zones.ts'
import { bare, type Name } from '../names/name.ts'
import { NONE } from '../names/tree.ts'
import { sameRdata } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import type { Result } from '../result.ts'

/** What is known of the target’s addresses. */
export interface Addresses {
  a: Knowledge
  aaaa: Knowledge
}

/** What the owner’s address sets become. Refused where the target’s addresses are not known for certain, of both families: then nothing is touched. */
export function following(
  zones: Zones,
  zone: Zone,
  owner: Name,
  target: Name,
  { a, aaaa }: Addresses,
): Result<{ changes: SetChange[]; notes: string[] }> {
  const families = [
    { type: TYPE.A, known: a },
    { type: TYPE.AAAA, known: aaaa },
  ]
  for (const { known } of families) {
    if (known.outcome === 'no-name') return { refused: `${bare(target)} does not exist` }
    if (known.outcome === 'unknown') return { refused: `${bare(target)} ${UNANSWERED[known.why ?? 'unknown']}` }
  }
  if (families.every(({ known }) => !known.set?.data.length))
    return { refused: `${bare(target)} has no address at all` }
  const changes: SetChange[] = []
  const notes: string[] = []
  for (const { type, known } of families) {
    const before = setAt(zones, zone, owner, type)
    const data = [...(known.set?.data ?? [])]
    const isSame =
      data.length === (before?.data.length ?? 0) &&
      data.every((each) => before!.data.some((other) => sameRdata(type, each, other)))
    if (isSame) continue
    if (data.length === 0)
      notes.push(`${bare(target)} has no ${typeText(type)} record: that of ${bare(owner)} is removed.`)
    const least = Math.min(known.set?.ttl ?? 0, ...known.steps.map(({ ttl }) => ttl), zoneTtl(zones, zone))
    changes.push({ owner, type, ttl: before?.ttl ?? least, data })
  }
  return { changes, notes }
}

/** The TTL of the zone’s own SOA record. */
const zoneTtl = (zones: Zones, zone: Zone): number =>
  zone.soa === NONE ? Number.POSITIVE_INFINITY : zones.ttl(zone.soa)

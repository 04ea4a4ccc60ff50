/** What a change set does, before it is done: each set before and after, what the rules say then, the files as they become. */

import { advanceSerial, serialOf } from '../file/serial.ts'
import { setAt, type Zone, type Zones } from '../model/zones.ts'
import { bare, foldName, type Name } from '../names/name.ts'
import { sameOctets } from '../names/octets.ts'
import type { NameId } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'
import { check } from '../rules/engine.ts'
import type { Finding, Surroundings } from '../rules/rule.ts'
import { affectedBy } from './affected.ts'
import {
  type ChangeSet,
  copyOf,
  type FindingsPreview,
  findingKey,
  type Preview,
  type ZonePart,
  type ZonePreview,
} from './change-set.ts'
import { setsSum, zoneDigest, zoneSum } from './digest.ts'
import { editKept } from './edit.ts'

export interface PreviewOptions {
  /** The serial is made of it. */
  now: Date
  around: Surroundings
  /** Whether digests of the zones are wanted, for a log. */
  digests: boolean
  /** Reads all zones anew, with other octets for some files: where a file that changes is another zone’s, too. */
  reload(instead: ReadonlyMap<string, Uint8Array>): Zones
}

/** Makes the change in `zones` (sealed), which are those of after it then, and says what it does; or which file cannot be edited, and why. */
export async function preview(
  zones: Zones,
  { parts }: ChangeSet,
  { now, around, digests, reload }: PreviewOptions,
): Promise<Preview | { refused: string }> {
  const about = new Set<NameId>(parts.flatMap(({ zone, sets }) => [...affectedBy(zones, zone, sets)]))
  const before = (await check(zones, { ...around, about })).findings
  const made: ZonePreview[] = []
  for (const part of parts) {
    const one = part.octets ? replaced(zones, part, part.octets, now, reload) : changed(zones, part, now, digests)
    if ('refused' in one) return one
    made.push(one)
  }
  const twice = duplicates(made.flatMap(({ files }) => files.map(({ file }) => file)))
  if (twice.length > 0)
    return { refused: `${twice[0]} is included by several of these zones: change them one at a time` }
  const owners = new Set(parts.flatMap(({ sets }) => sets.map(({ owner }) => foldName(owner))))
  const others = made.flatMap(({ zone, files }) => files.filter(({ file }) => sharing(zones, file, zone).length > 0))
  if (others.length === 0 && !parts.some(({ octets }) => octets)) {
    const after = (await check(zones, { ...around, about })).findings
    return { zones: made, findings: compared(before, after, owners) }
  }
  // Other zones are changed with it, or more than sets: all is read anew, and looked at.
  const instead = new Map(made.flatMap(({ files }) => files.map(({ file, octets }) => [file, octets])))
  const [then, again] = [reload(new Map()), reload(instead)]
  const findings = compared((await check(then, around)).findings, (await check(again, around)).findings, owners)
  return { zones: made, findings }
}

/** The change of one zone, made. */
function changed(
  zones: Zones,
  { zone, sets, notes = [] }: ZonePart,
  now: Date,
  digests: boolean,
): ZonePreview | { refused: string } {
  const root = zones.sources.find((source) => source.zone === zone.index)!
  const own = root.octets
  const before = sets.map(({ owner, type }) => copyOf(setAt(zones, zone, owner, type)))
  const whole = digests ? zoneSum(zones, zone) : undefined
  // All but what changes.
  const rest = whole?.minus(setsSum(zones, zone, sets))
  const edited = editKept(zones, zone, [...sets], { now: zone.hosted ? undefined : now })
  if ('refused' in edited) return { refused: `${zone.file}: ${edited.refused}` }
  const isSame = edited.included.length === 0 && sameOctets(edited.octets, own)
  return {
    zone,
    sets: sets.map(({ owner, type }, i) => ({
      owner,
      type,
      before: before[i],
      after: copyOf(setAt(zones, zone, owner, type)),
    })),
    files: isSame ? [] : [...edited.included, { file: root.file, before: own, octets: edited.octets }],
    serial: edited.serial,
    was: whole?.text ?? '',
    digest: (isSame ? whole : rest?.plus(setsSum(zones, zone, sets)))?.text ?? '',
    notes: isSame ? notes : [...notes, ...staleDigest(zones, zone, sets)],
  }
}

/** A digest of all of the zone (RFC 8976) is another one once anything in it is. */
function staleDigest(zones: Zones, zone: Zone, sets: ZonePart['sets']): string[] {
  if (!zones.has(zone.apex, TYPE.ZONEMD) || sets.some(({ type }) => type === TYPE.ZONEMD)) return []
  const name = bare(zone.name)
  return [
    `The ZONEMD record of ${name} is a digest of the zone as it was: whoever verifies it (RFC 8976 §4) rejects the zone now. Have it computed anew where the zone is signed, or remove it: bramblefront remove ${name} ZONEMD`,
  ]
}

/** A zone whose own file is to hold other octets; its serial is advanced from that of the file as it is now. */
function replaced(
  zones: Zones,
  { zone, sets, notes = [] }: ZonePart,
  octets: Uint8Array,
  now: Date,
  reload: PreviewOptions['reload'],
): ZonePreview | { refused: string } {
  const root = zones.sources.find((source) => source.zone === zone.index)!
  const fresh = reload(new Map([[root.file, octets]]))
  const again = fresh.zones[zone.index]!
  const [before, held] = [serialOf(zones, zone), serialOf(fresh, again)]
  const after = before === undefined || zone.hosted ? undefined : advanceSerial(before, now)
  const was = zoneDigest(zones, zone)
  let edited = editKept(fresh, again, [], { serial: held === undefined ? undefined : before })
  if (!('refused' in edited) && sameOctets(edited.octets, root.octets))
    return { zone, sets: [], files: [], was, digest: was, notes }
  if (after !== undefined && held !== undefined && !('refused' in edited))
    edited = editKept(fresh, again, [], { serial: after })
  if ('refused' in edited) return { refused: `${zone.file}: ${edited.refused}` }
  return {
    zone,
    sets: sets.map(({ owner, type }) => ({
      owner,
      type,
      before: copyOf(setAt(zones, zone, owner, type)),
      after: copyOf(setAt(fresh, again, owner, type)),
    })),
    files: [{ file: root.file, before: root.octets, octets: edited.octets }],
    serial: before === undefined || after === undefined ? undefined : { before, after },
    was,
    digest: zoneDigest(fresh, again),
    notes: [...notes, ...staleDigest(fresh, again, sets)],
  }
}

/** The other zones that a file belongs to. */
export const sharing = (zones: Zones, file: string, zone: Zone): Name[] => [
  ...new Set(
    zones.sources
      .filter((source) => source.file === file && source.zone !== zone.index)
      .map((source) => bare(zones.zones[source.zone]!.name)),
  ),
]

const duplicates = (each: readonly string[]): string[] => each.filter((one, i) => each.indexOf(one) !== i)

/** Findings before and after: which are new, which of those at `owners` were there, which are gone. */
export function compared(
  before: readonly Finding[],
  after: readonly Finding[],
  owners: ReadonlySet<Name>,
): FindingsPreview {
  const left = new Map<string, Finding[]>()
  for (const finding of before) left.set(findingKey(finding), [...(left.get(findingKey(finding)) ?? []), finding])
  const found: FindingsPreview = { added: [], standing: [], gone: [] }
  for (const finding of after) {
    const there = left.get(findingKey(finding))?.pop()
    if (!there) found.added.push(finding)
    else if (owners.has(finding.owner)) found.standing.push(finding)
  }
  found.gone = [...left.values()].flat()
  // What is wrong at the name that was written comes before what follows from it elsewhere.
  found.added.sort((a, b) => Number(owners.has(b.owner)) - Number(owners.has(a.owner)))
  return found
}

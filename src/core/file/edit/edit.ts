/**
 * Changes record sets in a zone file's text and leaves every other octet as it is. A change becomes splices; every stretch of the file that a splice touches
 * is read back, with its neighbours, and compared with what was intended, and what is in force behind it must be what was in force before. So the cost of
 * an edit is that of the stretches, not of the file.
 */

import { GENERATED, type RecordId, type Zone, Zones, type ZoneTraits } from '../../model/zones.ts'
import { isAtOrBelow, type Name, nameToWire } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { CLASS_IN, classText, TYPE, typeText } from '../../records/types.ts'
import type { Refused } from '../../result.ts'
import { LineIndex } from '../places.ts'
import { readZone } from '../reader.ts'
import type { Included } from '../reading.ts'
import { settle } from './apply.ts'
import type { Edited, SetChange } from './changes.ts'
import { type Alike, Plan } from './plan.ts'
import { applySplices } from './splices.ts'
import { ReadBack } from './verify.ts'

export interface KeptEditOptions {
  /** Advances the serial in its own style, unless nothing changed or the SOA record itself is among the changes. */
  now?: Date
  /** Advances it even where nothing changes. */
  always?: boolean
  /** The serial that it gets instead. */
  serial?: number
  /** Default: those of one type. */
  alike?: Alike
}

export interface EditOptions extends Omit<KeptEditOptions, 'always'> {
  traits?: ZoneTraits
  /** The zone's own file, as messages name it, and what reads the files that it includes. */
  file?: string
  include?: (name: string, from: string) => Included
}

/**
 * Makes the changes in a zone file and in the files that it includes: a set is changed where it stands.
 * Refuses files that are signed (unless `traits.signed` is `server`), sets that `$GENERATE` makes, and whatever does not read back exactly as intended.
 */
export function editZone(
  octets: Uint8Array,
  zoneName: Name,
  changes: SetChange[],
  options: EditOptions = {},
): Edited | Refused {
  const { traits, file = '', include } = options
  const zones = new Zones(Math.ceil(octets.length / 32))
  const zone = zones.addZone(zoneName, file, traits)
  readZone(zones, zones.addSource(zone, file, octets), { include })
  zones.seal()
  return editKept(zones, zone, changes, options)
}

/** The same for one of several zones that are read already (and sealed): they become what they are after the change. A refusal leaves them as they were. */
export function editKept(
  zones: Zones,
  zone: Zone,
  changes: SetChange[],
  { now, always, serial: stated, alike }: KeptEditOptions = {},
): Edited | Refused {
  const refused =
    whyNot(zones, zone) ?? changes.map((change) => outside(zone, change) ?? inTheWay(zones, zone, change)).find(Boolean)
  if (refused) return { refused }
  const plan = new Plan(zones, zone, alike)
  for (const change of changes) plan.change(change)
  plan.insertAll()
  let serial: Edited['serial']
  if (stated !== undefined && zone.soa !== NONE) serial = plan.renumber(zone.soa, stated)
  else if (
    now &&
    (always || plan.splices.length > 0) &&
    zone.soa !== NONE &&
    !changes.some((change) => change.type === TYPE.SOA)
  )
    serial = plan.advance(zone.soa, now)
  plan.keepNeighbours()
  const edited = new Map<number, Uint8Array>()
  for (const index of new Set(plan.splices.map((splice) => splice.source))) {
    const { file, octets } = zones.sources[index]!
    if (zones.sources.some((each, i) => i !== index && each.file === file && each.zone === zone.index))
      return { refused: `${file} is included twice: a change to it would take effect in two places` }
    edited.set(
      index,
      applySplices(
        octets,
        plan.splices.filter((splice) => splice.source === index),
      ),
    )
  }
  const asRead = zones.sources.map((source) => source.octets)
  const back = new ReadBack(plan)
  const difference = back.run(edited)
  if (difference)
    return typeof difference === 'string'
      ? { refused: `the changed file would not be read as intended (${difference}); nothing was written` }
      : difference
  settle(plan, back.settled, edited)
  const root = plan.root
  return {
    octets: zones.sources[root]!.octets,
    included: [...edited.keys()]
      .filter((index) => index !== root)
      .map((index) => ({
        file: zones.sources[index]!.file,
        before: asRead[index]!,
        octets: zones.sources[index]!.octets,
      })),
    zones,
    serial,
  }
}

function outside(zone: Zone, { owner }: SetChange): string | undefined {
  if (typeof nameToWire(owner) === 'string') return `${owner} is not an absolute domain name`
  return isAtOrBelow(owner, zone.name) ? undefined : `${owner} is not in the zone ${zone.name}`
}

/** Why a set cannot be changed: a `$GENERATE` line makes some of it, or a record of another class stands in it, which servers refuse. */
function inTheWay(zones: Zones, zone: Zone, change: SetChange): string | undefined {
  const owner = zones.tree.findWire(nameToWire(change.owner) as Uint8Array)
  if (owner === NONE || zones.first(owner) === NONE) return undefined
  const records = zones.records(owner, change.type, zone.index)
  const set = `${change.owner} ${typeText(change.type)}`
  const generated = records.find((each) => zones.flags(each) & GENERATED)
  if (generated !== undefined)
    return `${set} is made by $GENERATE at ${placeText(zones, generated)}, together with other names: change that line, or replace it with separate records`
  const other = records.find((each) => zones.classOf(each) !== CLASS_IN)
  return other === undefined
    ? undefined
    : `${set} has a record of the class ${classText(zones.classOf(other))} at ${placeText(zones, other)}, and only records of the class IN are written; fix that first: remove that line, or its class`
}

function placeText(zones: Zones, record: RecordId): string {
  const { file, octets } = zones.source(record)
  return `line ${new LineIndex(octets).place(zones.start(record)).line}${file ? ` of ${file}` : ''}`
}

const SIGNED: number[] = [TYPE.RRSIG, TYPE.NSEC, TYPE.NSEC3]

function whyNot(zones: Zones, zone: Zone): string | undefined {
  const sources = zones.sources.filter((source) => source.zone === zone.index)
  if (sources.some((source) => source.problems.some((problem) => problem.kind === 'binary')))
    return 'this is not a zone file'
  let type = sources.flatMap((source) => source.brokenTypes).find((each) => SIGNED.includes(each))
  const { firstRecord, endRecord } = sources[0]!
  for (let record = firstRecord; type === undefined && record < endRecord; record++)
    if (SIGNED.includes(zones.type(record))) type = zones.type(record)
  if (type !== undefined && zone.signed !== 'server')
    return `the file is signed (it contains ${typeText(type)} records): a change would make the whole zone fail validation. Change the unsigned file, or set “signed: server” for the zone in bramblefront.yaml if a server signs it again`
  return undefined
}

/**
 * Changes record sets in a zone file's text and leaves every other octet as it is. A change becomes splices; every stretch of the file that a splice touches
 * is read back, with its neighbours, and compared with what was intended, and what is in force behind it must be what was in force before. So the cost of
 * an edit is that of the stretches, not of the file.
 */

import {
  GENERATED,
  type RecordId,
  type Seconds,
  type Source,
  TARGET_RELATIVE,
  TTL_STATED,
  type Zone,
  Zones,
  type ZoneTraits,
} from '../model/zones.ts'
import { foldName, isAtOrBelow, type Name, nameToWire, wireToName } from '../names/name.ts'
import { sameOctets } from '../names/octets.ts'
import { type NameId, NONE } from '../names/tree.ts'
import { stringText } from '../records/fields.ts'
import { type Rdata, rdataKey, rdataText } from '../records/rdata.ts'
import type { Problem } from '../records/tokens.ts'
import { TYPE, typeText } from '../records/types.ts'
import { soa as soaView, withSerial } from '../records/views.ts'
import { type EntryParts, generateParts, partsAt } from './entry.ts'
import { LineIndex } from './places.ts'
import { type Included, type ReadingState, readStretch, readZone } from './reader.ts'
import { advanceSerial } from './serial.ts'

/** What a set shall be: all its data, none for a set that shall not be there. Without `ttl` it keeps its TTL, or takes the file's default. */
export interface SetChange {
  owner: Name
  type: number
  ttl?: Seconds
  data: Rdata[]
  /** A comment for a line of its own in front of what is new. */
  note?: string
}

export interface Splice {
  /** The source that it belongs to; 0 is the zone's own file. */
  source: number
  from: number
  to: number
  text: string
}

export interface Edited {
  /** The zone's own file as it becomes. */
  octets: Uint8Array
  /** Included files that change too: each as messages name it, as it was read, and as it becomes. */
  included: { file: string; before: Uint8Array; octets: Uint8Array }[]
  /** The zone as it reads afterwards, sealed. */
  zones: Zones
  /** The SOA serial before and after, where it was advanced. */
  serial?: { before: number; after: number }
}

/** Why a file cannot be edited, for people. */
export interface Refused {
  refused: string
}

const text = new TextDecoder()

/** Splices in the order of their places: what is put in at one comes before what is replaced there. */
const inOrder = <T extends { from: number; to: number }>(splices: readonly T[]): T[] =>
  [...splices].sort((a, b) => a.from - b.from || a.to - b.to)

/** Puts splices into octets. They must not overlap; those at one place go in their order. */
export function applySplices(octets: Uint8Array, splices: readonly Omit<Splice, 'source'>[]): Uint8Array {
  const encoder = new TextEncoder()
  const parts: Uint8Array[] = []
  let at = 0
  for (const splice of inOrder(splices)) {
    parts.push(octets.subarray(at, splice.from), encoder.encode(splice.text))
    at = splice.to
  }
  parts.push(octets.subarray(at))
  const result = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let to = 0
  for (const part of parts) {
    result.set(part, to)
    to += part.length
  }
  return result
}

/** What records stand together, as a text that is equal for those that do: new ones are put behind the last of theirs. */
export type Alike = (zones: Zones, zone: Zone, owner: NameId, type: number, data: Rdata) => string

export interface KeptEditOptions {
  /** Advances the serial in its own style, unless nothing changed or the SOA record itself is among the changes. */
  now?: Date
  /** Advances it even where nothing changes. */
  always?: boolean
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
  { now, always, alike }: KeptEditOptions = {},
): Edited | Refused {
  const refused =
    whyNot(zones, zone) ??
    changes.map((change) => outside(zone, change) ?? generated(zones, zone, change)).find(Boolean)
  if (refused) return { refused }
  const editor = new Editor(zones, zone, alike)
  for (const change of changes) editor.change(change)
  editor.insertAll()
  let serial: Edited['serial']
  if (
    now &&
    (always || editor.splices.length > 0) &&
    zone.soa !== NONE &&
    !changes.some((change) => change.type === TYPE.SOA)
  )
    serial = editor.advance(zone.soa, now)
  editor.keepNeighbours()
  const edited = new Map<number, Uint8Array>()
  for (const index of new Set(editor.splices.map((splice) => splice.source))) {
    const { file, octets } = zones.sources[index]
    if (zones.sources.some((each, i) => i !== index && each.file === file && each.zone === zone.index))
      return { refused: `${file} is included twice: a change of it would be one in two places` }
    edited.set(
      index,
      applySplices(
        octets,
        editor.splices.filter((splice) => splice.source === index),
      ),
    )
  }
  const asRead = zones.sources.map((source) => source.octets)
  const difference = editor.readBack(edited)
  if (difference)
    return typeof difference === 'string'
      ? { refused: `the changed file would not read as intended (${difference}); nothing was written` }
      : difference
  editor.settle(edited)
  const root = editor.root
  return {
    octets: zones.sources[root].octets,
    included: [...edited.keys()]
      .filter((index) => index !== root)
      .map((index) => ({
        file: zones.sources[index].file,
        before: asRead[index],
        octets: zones.sources[index].octets,
      })),
    zones,
    serial,
  }
}

function outside(zone: Zone, { owner }: SetChange): string | undefined {
  if (typeof nameToWire(owner) === 'string') return `${owner} is no absolute domain name`
  return isAtOrBelow(owner, zone.name) ? undefined : `${owner} is not in the zone ${zone.name}`
}

/** Why a set cannot be changed because a `$GENERATE` line makes some of it. */
function generated(zones: Zones, zone: Zone, change: SetChange): string | undefined {
  const owner = zones.tree.findWire(nameToWire(change.owner) as Uint8Array)
  if (owner === NONE || zones.first(owner) === NONE) return undefined
  const record = zones.records(owner, change.type, zone.index).find((each) => zones.flags(each) & GENERATED)
  if (record === undefined) return undefined
  const source = zones.source(record)
  const { line } = new LineIndex(source.octets).place(zones.start(record))
  return `${change.owner} ${typeText(change.type)} is made by $GENERATE at line ${line}${source.file ? ` of ${source.file}` : ''}, together with other names: change that line, or write its records out`
}

/** What is not as intended; or why nothing can be said of it. */
type Difference = string | Refused

const UNCLOSED = new Set<Problem['kind']>(['parenthesis', 'bad-quote', 'entry-too-long'])

/** Types that make a name a cut, an alias or a zone's top. */
const SHAPING = new Set<number>([TYPE.NS, TYPE.CNAME, TYPE.DNAME, TYPE.SOA])

const SIGNED: number[] = [TYPE.RRSIG, TYPE.NSEC, TYPE.NSEC3]

function whyNot(zones: Zones, zone: Zone): string | undefined {
  const sources = zones.sources.filter((source) => source.zone === zone.index)
  if (sources.some((source) => source.problems.some((problem) => problem.kind === 'binary')))
    return 'this is no zone file'
  let type = sources.flatMap((source) => source.brokenTypes).find((each) => SIGNED.includes(each))
  const [{ firstRecord, endRecord }] = sources
  for (let record = firstRecord; type === undefined && record < endRecord; record++)
    if (SIGNED.includes(zones.type(record))) type = zones.type(record)
  if (type !== undefined && zone.signed !== 'server')
    return `the file is signed (it has ${typeText(type)} records in it): a change would make the whole zone fail validation. Change the unsigned file, or state “signed: server” for the zone if a server signs it anew`
  return undefined
}

/** A record that is to be there: the new ones, and those that get another TTL or other data. */
interface Planned {
  owner: NameId
  type: number
  ttl: Seconds
  ttlStated: boolean
  data: Rdata
}

class Editor {
  readonly splices: Splice[] = []
  readonly root: number
  private readonly zones: Zones
  private readonly zone: Zone
  private readonly first: RecordId
  private readonly end: RecordId
  /** Records that go; records put in behind another (NONE: where there is none); and what records become. */
  private readonly gone = new Set<RecordId>()
  private readonly added = new Map<RecordId, Planned[]>()
  private readonly retimed = new Map<RecordId, Seconds>()
  private readonly renewed = new Map<RecordId, Rdata>()
  private readonly touched = new Set<RecordId>()
  /** What was read back of each stretch, for `settle`. */
  private readonly settled: { record: RecordId; scratch: Zones; from: RecordId; planned?: Planned; source: number }[] =
    []

  private readonly alike: Alike

  constructor(zones: Zones, zone: Zone, alike: Alike = (_zones, _zone, _owner, type) => String(type)) {
    this.alike = alike
    this.zones = zones
    this.zone = zone
    this.root = zones.sources.findIndex((source) => source.zone === zone.index)
    this.first = zones.sources[this.root].firstRecord
    this.end = zones.sources[this.root].endRecord
  }

  private octetsOf(record: RecordId): Uint8Array {
    return this.zones.source(record).octets
  }
  private slice(record: RecordId, from: number, to: number): string {
    return text.decode(this.octetsOf(record).subarray(from, to))
  }
  private parts(record: RecordId): EntryParts {
    return partsAt(this.octetsOf(record), this.zones.start(record))
  }
  private ownerStated(record: RecordId): boolean {
    const first = this.octetsOf(record)[this.zones.start(record)]
    return first !== 0x20 && first !== 0x09
  }
  private isGenerated(record: RecordId): boolean {
    return (this.zones.flags(record) & GENERATED) !== 0
  }
  /** What was in force where a record stands. */
  private context(record: RecordId): { origin: Uint8Array; defaultTtl: number } {
    const { contexts } = this.zones.source(record)
    let low = 0
    let high = contexts.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (contexts[middle].record <= record) low = middle
      else high = middle - 1
    }
    return contexts[low]
  }

  private splice(record: RecordId, from: number, to: number, put: string): void {
    this.splices.push({ source: this.zones.sourceIndex(record), from, to, text: put })
    this.touched.add(record)
  }

  change(change: SetChange): void {
    const { zones } = this
    const owner = zones.tree.internWire(nameToWire(change.owner) as Uint8Array)
    const present = zones.first(owner) === NONE ? [] : zones.records(owner, change.type, this.zone.index)
    const ttl = change.ttl ?? (present.length > 0 ? zones.ttl(present[0]) : this.defaultTtl())
    const wanted = new Map(change.data.map((data) => [rdataKey(change.type, data), data]))
    const freed: RecordId[] = []
    for (const record of present) {
      if (!wanted.delete(rdataKey(change.type, zones.rdata(record)))) freed.push(record)
      else if (zones.ttl(record) !== ttl) this.restateTtl(record, ttl)
    }
    const fresh = [...wanted.values()]
    for (const record of freed) {
      const data = fresh.shift()
      if (data) {
        if (change.note)
          this.splice(
            record,
            zones.start(record),
            zones.start(record),
            `; ${change.note}${endOfLine(this.octetsOf(record))}`,
          )
        this.replaceData(record, data, ttl)
      } else this.remove(record)
    }
    if (fresh.length > 0)
      this.coming.push(() =>
        this.insert(owner, change.type, ttl, fresh, present, freed.length === 0 ? change.note : undefined),
      )
  }

  /** New records find their places when it is known which ones go. */
  private readonly coming: (() => void)[] = []
  insertAll(): void {
    for (const insert of this.coming) insert()
  }

  /** The serial's token is changed, nothing else of the record. */
  advance(soa: RecordId, now: Date): Edited['serial'] {
    const data = this.zones.rdata(soa)
    const before = soaView(data).serial
    const after = advanceSerial(before, now)
    const [from, to] = this.parts(soa).values[2]
    this.splice(soa, from, to, String(after))
    this.renewed.set(soa, withSerial(data, after))
    return { before, after }
  }

  private lastRecord(): RecordId {
    for (let record = this.end - 1; record >= this.first; record--) if (!this.isGenerated(record)) return record
    return NONE
  }

  private defaultTtl(): Seconds {
    const last = this.lastRecord()
    if (last === NONE)
      return this.zones.sources[this.root].contexts.at(-1)!.defaultTtl === NONE
        ? 3600
        : this.zones.sources[this.root].contexts.at(-1)!.defaultTtl
    const { defaultTtl } = this.context(last)
    return defaultTtl === NONE ? this.zones.ttl(last) : defaultTtl
  }

  private remove(record: RecordId): void {
    const { start, end } = this.parts(record)
    this.gone.add(record)
    this.splice(record, start, end, '')
  }

  private restateTtl(record: RecordId, ttl: Seconds): void {
    const parts = this.parts(record)
    this.retimed.set(record, ttl)
    const before = (parts.class ?? parts.type)[0]
    if (parts.ttl) this.splice(record, parts.ttl[0], parts.ttl[1], String(ttl))
    else this.splice(record, before, before, `${ttl} `)
  }

  private replaceData(record: RecordId, data: Rdata, ttl: Seconds): void {
    const { zones } = this
    const parts = this.parts(record)
    const type = zones.type(record)
    const value = foldedText(
      type,
      data,
      this.targetsRelative(record) ? this.context(record).origin : undefined,
      endOfLine(this.octetsOf(record)),
    )
    if (zones.ttl(record) !== ttl) this.restateTtl(record, ttl)
    this.renewed.set(record, data)
    if (parts.values.length > 0 && !this.hasParenthesis(record, parts))
      this.splice(record, parts.values[0][0], parts.values[parts.values.length - 1][1], value)
    else this.splice(record, parts.type[1], this.behindLastSign(record, parts), ` ${value}`)
  }

  /** Between the tokens of the entry. */
  private hasParenthesis(record: RecordId, parts: EntryParts): boolean {
    let at = parts.start
    const tokens = [parts.owner, parts.ttl, parts.class, parts.type, ...parts.values]
      .filter((each) => each !== undefined)
      .sort((a, b) => a[0] - b[0])
    for (const [start, end] of tokens) {
      if (/[()]/.test(this.slice(record, at, start))) return true
      at = end
    }
    return false
  }

  private behindLastSign(record: RecordId, parts: EntryParts): number {
    const octets = this.octetsOf(record)
    let end = parts.end
    while (end > parts.start && (octets[end - 1] === 0x0a || octets[end - 1] === 0x0d)) end--
    return end
  }

  /** Whether a record gives its target relative to the origin; where it has none, or one outside the zone, whether its owner is relative. */
  private targetsRelative(record: RecordId): boolean {
    const { zones } = this
    const target = zones.target(record)
    if (target !== NONE && zones.tree.isAtOrBelow(target, this.zone.apex) && target !== this.zone.apex)
      return (zones.flags(record) & TARGET_RELATIVE) !== 0
    return this.ownersRelative(record)
  }

  private ownersRelative(record: RecordId): boolean {
    for (let each = record; each >= this.first; each--) {
      if (this.isGenerated(each) || !this.ownerStated(each)) continue
      const [start, end] = this.parts(each).owner!
      const octets = this.octetsOf(each)
      return octets[end - 1] !== 0x2e || octets[start] === 0x40
    }
    return true
  }

  /** Behind the set, else behind the owner's other records, else behind the last record with that purpose (of that type, where there is one), else at the end. */
  private neighbourFor(owner: NameId, type: number, data: Rdata, present: RecordId[]): RecordId {
    const { zones } = this
    const staying = (record: RecordId): boolean => !this.isGenerated(record) && !this.gone.has(record)
    const last = present.findLast(staying)
    if (last !== undefined) return last
    let found = NONE
    for (let record = zones.first(owner); record !== NONE; record = zones.next(record))
      if (zones.zoneOfRecord(record) === this.zone && staying(record)) found = record
    if (found !== NONE) return found
    const purpose = this.alike(zones, this.zone, owner, type, data)
    let alike = NONE
    let any = NONE
    for (let record = this.end - 1; record >= this.first; record--) {
      if (!staying(record)) continue
      if (any === NONE) any = record
      if (this.alike(zones, this.zone, zones.owner(record), zones.type(record), zones.rdata(record)) !== purpose)
        continue
      if (zones.type(record) === type) return record
      if (alike === NONE) alike = record
    }
    return alike !== NONE ? alike : any
  }

  private insert(owner: NameId, type: number, ttl: Seconds, data: Rdata[], present: RecordId[], note?: string): void {
    const { zones } = this
    const neighbour = this.neighbourFor(owner, type, data[0], present)
    let behind = neighbour
    const sameOwner = neighbour !== NONE && zones.owner(neighbour) === owner
    // Lines that take their owner from the neighbour stay behind it.
    if (neighbour !== NONE && !sameOwner) behind = this.lastOfOwner(neighbour)
    const source = behind === NONE ? this.root : zones.sourceIndex(behind)
    const { octets } = zones.sources[source]
    const at = behind === NONE ? octets.length : this.parts(behind).end
    const { origin, defaultTtl } = behind === NONE ? zones.sources[source].contexts.at(-1)! : this.context(behind)
    const relative = neighbour === NONE || this.ownersRelative(neighbour)
    const ownerText = relative ? wireToName(this.wire(owner), 0, origin) : zones.tree.text(owner)
    const ttlStated = defaultTtl !== ttl || (neighbour !== NONE && (zones.flags(neighbour) & TTL_STATED) !== 0)
    const targets = neighbour !== NONE && zones.type(neighbour) === type ? this.targetsRelative(neighbour) : relative
    const between = this.added.get(behind)?.at(-1)
    const blankOwner = sameOwner && !this.ownerStated(neighbour) && (between === undefined || between.owner === owner)
    const unfinished = at > 0 && octets[at - 1] !== 0x0a
    const eol = unfinished || at < 2 ? endOfLine(octets) : octets[at - 2] === 0x0d ? '\r\n' : '\n'
    const comment = note === undefined ? '' : `; ${note}${eol}`
    const block =
      comment +
      data
        .map(
          (each) =>
            this.entryText(
              neighbour,
              blankOwner ? undefined : ownerText,
              ttlStated ? String(ttl) : undefined,
              typeText(type),
              foldedText(type, each, targets ? origin : undefined, eol),
            ) + eol,
        )
        .join('')
    this.splices.push({ source, from: at, to: at, text: unfinished ? eol + block.slice(0, -eol.length) : block })
    this.touched.add(behind)
    this.added.set(behind, [
      ...(this.added.get(behind) ?? []),
      ...data.map((each) => ({ owner, type, ttl, ttlStated, data: each })),
    ])
  }

  /** The last of the lines behind a record that take their owner from it. What is included or generated between them leaves the owner as it was. */
  private lastOfOwner(record: RecordId): RecordId {
    const { zones } = this
    const source = zones.sourceIndex(record)
    let last = record
    for (let next = record + 1; next < this.end; next++) {
      if (this.isGenerated(next)) continue
      if (zones.sourceIndex(next) === source && !this.ownerStated(next)) last = next
      else if (zones.sourceIndex(next) === source || !this.isInside(zones.source(next), source)) break
    }
    return last
  }

  private wire(name: NameId): Uint8Array {
    return nameToWire(this.zones.tree.text(name)) as Uint8Array
  }

  /** A record in the layout of a neighbour: its columns, its class or none; without `owner`, with the neighbour's leading blanks. */
  private entryText(
    neighbour: RecordId,
    owner: string | undefined,
    ttl: string | undefined,
    type: string,
    value: string,
  ): string {
    if (neighbour === NONE) return [owner ?? '', ttl, 'IN', type, value].filter((part) => part !== undefined).join(' ')
    const style = this.parts(neighbour)
    const lineStart = style.start
    const klass = style.class && this.slice(neighbour, ...style.class)
    let line = owner ?? this.slice(neighbour, lineStart, (style.ttl ?? style.class ?? style.type)[0])
    const ttlFirst = !style.class || !style.ttl || style.ttl[0] < style.class[0]
    const middle: [string | undefined, [number, number] | undefined][] = ttlFirst
      ? [
          [ttl, style.ttl],
          [klass, style.class],
        ]
      : [
          [klass, style.class],
          [ttl, style.ttl],
        ]
    let before = style.owner?.[1] ?? -1
    for (const [part, place] of [...middle, [type, style.type], [value, style.values[0]]] as const) {
      if (part === undefined) continue
      if (line.trim() === '' && owner === undefined) {
        line += part
        before = place ? place[1] : before
        continue
      }
      const gap = place && before >= 0 && before < place[0] ? this.slice(neighbour, before, place[0]) : ' '
      if (gap.includes('\t') && /^[ \t]*$/.test(gap)) line += gap + part
      else line = `${line.padEnd(place && /^ *$/.test(gap) ? place[0] - lineStart - 1 : 0)} ${part}`
      before = place ? place[1] : before
    }
    return line
  }

  /** Records behind a change that take their owner or their TTL from the line above get it written out where the line above is now another. */
  keepNeighbours(): void {
    for (const record of [...this.touched].sort((a, b) => a - b)) {
      if (record === NONE) continue
      const source = this.zones.sourceIndex(record)
      const begun = new Set<number>()
      for (let next = record + 1; next < this.end; next++) {
        if (this.gone.has(next)) continue
        const at = this.zones.sourceIndex(next)
        if (this.isGenerated(next)) this.keepGenerated(next)
        else if (!begun.has(at)) {
          this.keep(next)
          begun.add(at)
        }
        // What a file in between is included for begins with this owner; behind it, the owner is this one again.
        if (!this.isGenerated(next) && (at === source || !this.isInside(this.zones.sources[at], source))) break
      }
    }
  }

  private readonly keptLines = new Set<string>()
  /** The same for the `$GENERATE` line that makes a record: its owner is its own, its TTL may be the last stated one. */
  private keepGenerated(record: RecordId): void {
    const { zones } = this
    const line = `${zones.sourceIndex(record)} ${zones.start(record)}`
    if (this.keptLines.has(line)) return
    this.keptLines.add(line)
    if (this.context(record).defaultTtl !== NONE || this.inheritedTtl(record) === zones.ttl(record)) return
    const { ttl, behindOwner } = generateParts(this.octetsOf(record), zones.start(record))
    if (!ttl) this.splice(record, behindOwner, behindOwner, ` ${zones.ttl(record)}`)
  }

  private readonly kept = new Set<RecordId>()
  private keep(record: RecordId): void {
    if (this.kept.has(record)) return
    this.kept.add(record)
    const { zones } = this
    const parts = this.parts(record)
    const before = this.stateBefore(record)
    const owner = zones.owner(record)
    const { origin, defaultTtl } = this.context(record)
    if (!this.ownerStated(record) && before.owner !== owner) {
      const name = wireToName(this.wire(owner), 0, origin)
      const first = (parts.ttl ?? parts.class ?? parts.type)[0]
      const blanks = this.slice(record, parts.start, first)
      this.splice(
        record,
        parts.start,
        first,
        blanks.includes('\t') ? name + blanks : `${name.padEnd(blanks.length - 1)} `,
      )
    }
    if (
      !parts.ttl &&
      defaultTtl === NONE &&
      this.inheritedTtl(record, before) !== zones.ttl(record) &&
      !this.retimed.has(record)
    )
      this.restateTtl(record, zones.ttl(record))
  }

  /** The TTL that a record takes over where it states none and there is no $TTL: the last stated one, else the SOA record's minimum. */
  private inheritedTtl(record: RecordId, before = this.stateBefore(record)): Seconds {
    const { soa } = this.zone
    return before.ttl !== NONE ? before.ttl : soa !== NONE && soa < record ? soaView(this.zones.rdata(soa)).minimum : 0
  }

  /** The owner and the stated TTL in force just before a record, after the changes. */
  private stateBefore(record: RecordId): { owner: NameId; ttl: number } {
    const { zones } = this
    let owner = NONE
    // Where there is a $TTL, the last stated one means nothing: it need not be looked for.
    let ttl = this.context(record).defaultTtl === NONE ? NONE : UNSOUGHT
    // After an include the owner is again the includer's.
    const includers = new Set<number>()
    for (
      let each: number | undefined = zones.sourceIndex(record);
      each !== undefined;
      each = zones.sources[each].includedBy?.source
    )
      includers.add(each)
    for (let i = record - 1; i >= this.first && (owner === NONE || ttl === NONE); i--) {
      const counts = includers.has(zones.sourceIndex(i))
      for (const added of [...(this.added.get(i) ?? [])].reverse()) {
        if (owner === NONE && counts) owner = added.owner
        if (ttl === NONE && added.ttlStated) ttl = added.ttl
      }
      if (this.gone.has(i) || this.isGenerated(i)) continue
      if (owner === NONE && counts) owner = zones.owner(i)
      if (ttl === NONE && (zones.flags(i) & TTL_STATED || this.retimed.has(i)))
        ttl = this.retimed.get(i) ?? zones.ttl(i)
    }
    return { owner, ttl }
  }

  /** Reads every touched stretch of the changed sources, with a record before it and one behind it, and says what is not as intended. */
  readBack(edited: ReadonlyMap<number, Uint8Array>): Difference | undefined {
    for (const [source, octets] of edited) {
      const touched = [...this.touched]
        .filter((record) => (record === NONE ? this.root : this.zones.sourceIndex(record)) === source)
        .sort((a, b) => a - b)
      for (let i = 0; i < touched.length; ) {
        const from = this.before(touched[i], source)
        let to = this.behind(touched[i], source)
        for (i++; i < touched.length && (to === NONE || this.before(touched[i], source) <= to); i++)
          to = this.behind(touched[i], source)
        const trouble = this.readStretchBack(source, octets, from, to, edited)
        if (trouble) return trouble
      }
    }
    return undefined
  }

  /** The record before one in the same source, or NONE. */
  private before(record: RecordId, source: number): RecordId {
    for (let each = record - 1; record !== NONE && each >= this.zones.sources[source].firstRecord; each--)
      if (this.zones.sourceIndex(each) === source && !this.isGenerated(each)) return each
    return NONE
  }
  /** The record behind one in the same source that stays, or NONE where the source ends first. */
  private behind(record: RecordId, source: number): RecordId {
    for (let each = record + 1; record !== NONE && each < this.zones.sources[source].endRecord; each++)
      if (this.zones.sourceIndex(each) === source && !this.isGenerated(each) && !this.gone.has(each)) return each
    return NONE
  }

  private readStretchBack(
    source: number,
    octets: Uint8Array,
    from: RecordId,
    to: RecordId,
    edited: ReadonlyMap<number, Uint8Array>,
  ): Difference | undefined {
    const { zones, zone } = this
    const own = zones.sources[source]
    const oldStart = from === NONE ? 0 : zones.start(from)
    const oldEnd = to === NONE ? own.octets.length : this.parts(to).end
    const open = this.unclosed([own], ({ start }) => start >= oldStart && start < oldEnd)
    if (open) return open
    const moved = mover(this.splices.filter((splice) => splice.source === source))
    const scratch = new Zones()
    const index = scratch.addSource(scratch.addZone(zone.name, own.file, zone), own.file, octets)
    // Whatever is included between is read as it was, or as it becomes.
    const overlaid = (name: string, from: string): Included => {
      const at = this.included().get(`${from}\n${name}`)
      return at === undefined
        ? { failed: 'it was not read before' }
        : { file: zones.sources[at].file, octets: edited.get(at) ?? zones.sources[at].octets }
    }
    const end = readStretch(
      scratch,
      index,
      from === NONE ? 0 : moved(oldStart),
      to === NONE ? octets.length : moved(oldEnd),
      this.stateAt(from, source),
      {
        include: overlaid,
      },
    )
    const first = from === NONE ? own.firstRecord : from
    const last = to === NONE ? own.endRecord - 1 : to
    let at = 0
    const next = (wanted: Planned, record: RecordId, planned?: Planned): string | undefined => {
      const got = at++
      if (got >= scratch.count) return `${this.describe(wanted)} would be lost`
      const same =
        foldName(scratch.tree.text(scratch.owner(got))) === foldName(zones.tree.text(wanted.owner)) &&
        scratch.type(got) === wanted.type &&
        scratch.ttl(got) === wanted.ttl &&
        scratch.classOf(got) === (planned ? 1 : zones.classOf(record)) &&
        sameOctets(scratch.rdata(got), wanted.data)
      if (!same)
        return `${this.describe(wanted)} would become ${scratch.tree.text(scratch.owner(got))} ${scratch.ttl(got)} ${typeText(scratch.type(got))} ${scratch.rdataText(got)}`
      if (scratch.sourceIndex(got) === index) this.settled.push({ record, scratch, from: got, planned, source })
      return undefined
    }
    for (const planned of (first === own.firstRecord && this.added.get(NONE)) || []) {
      const trouble = next(planned, NONE, planned)
      if (trouble) return trouble
    }
    for (let record = first; record <= last; record++) {
      const wanted = {
        owner: zones.owner(record),
        type: zones.type(record),
        ttl: this.retimed.get(record) ?? zones.ttl(record),
        ttlStated: false,
        data: this.renewed.get(record) ?? zones.rdata(record),
      }
      const trouble =
        (this.gone.has(record) ? undefined : next(wanted, record)) ??
        (this.added.get(record) ?? []).map((planned) => next(planned, NONE, planned)).find(Boolean)
      if (trouble) return trouble
    }
    if (at < scratch.count)
      return `${scratch.tree.text(scratch.owner(at))} ${typeText(scratch.type(at))} ${scratch.rdataText(at)} would be new`
    const unread = (all: Source[], only: (source: Source, start: number) => boolean): number =>
      all.reduce(
        (sum, each) => sum + each.problems.filter((problem) => !problem.read && only(each, problem.start)).length,
        0,
      )
    const nested = (each: Source): boolean =>
      each.includedBy !== undefined &&
      each.firstRecord >= first &&
      each.endRecord <= last + 1 &&
      this.isInside(each, source)
    const before = unread(zones.sources, (each, start) =>
      each === own ? start >= oldStart && start < oldEnd : nested(each),
    )
    if (before !== unread(scratch.sources, () => true))
      return (
        this.unclosed(zones.sources.filter((each) => each.zone === zone.index)) ??
        'what cannot be read of it would change'
      )
    return this.stateTrouble(end, to, source)
  }

  private includedAt: Map<string, number> | undefined
  /** The zone's included sources, by the file that includes them and the name that it has for them. */
  private included(): ReadonlyMap<string, number> {
    const { zones, zone } = this
    this.includedAt ??= new Map(
      zones.sources.flatMap(({ includedBy, zone: of }, i): [string, number][] =>
        includedBy && of === zone.index ? [[`${zones.sources[includedBy.source].file}\n${includedBy.name}`, i]] : [],
      ),
    )
    return this.includedAt
  }

  private isInside(each: Source, source: number): boolean {
    for (let here: Source | undefined = each; here?.includedBy; here = this.zones.sources[here.includedBy.source])
      if (here.includedBy.source === source) return true
    return false
  }

  /** What is in force where the entry of a record begins; NONE stands for the beginning of the source. */
  private stateAt(record: RecordId, source: number): ReadingState {
    const { zones } = this
    const minimum = this.zone.soa === NONE ? NONE : soaView(zones.rdata(this.zone.soa)).minimum
    if (record === NONE) {
      const { contexts, firstRecord, includedBy } = zones.sources[source]
      const outer = includedBy ? this.stateBefore(firstRecord) : { owner: NONE, ttl: NONE }
      return {
        owner: outer.owner === NONE ? undefined : zones.tree.text(outer.owner),
        ...contexts[0],
        lastTtl: outer.ttl,
        lastClass: 1,
        minimum: includedBy ? minimum : NONE,
      }
    }
    const { origin, defaultTtl } = this.context(record)
    // With no TTL of its own, and no $TTL, the record shows what was stated last; unless that was nothing, and the SOA record's minimum stands in.
    const { ttl } = this.stateBefore(record)
    return {
      owner: zones.tree.text(zones.owner(record)),
      origin,
      defaultTtl,
      lastTtl: Math.max(ttl, NONE),
      lastClass: zones.classOf(record),
      minimum,
    }
  }

  /** What is in force behind a stretch must be what was; otherwise the rest of the file would read differently. */
  private stateTrouble(end: ReadingState, last: RecordId, source: number): string | undefined {
    const { zones } = this
    if (last === NONE) {
      let following = zones.sources[source].endRecord
      while (following < this.end && (this.gone.has(following) || this.isGenerated(following))) following++
      if (
        zones.sources[source].includedBy === undefined ||
        following >= this.end ||
        this.retimed.has(following) ||
        zones.flags(following) & TTL_STATED
      )
        return undefined
      return this.context(following).defaultTtl === NONE && end.lastTtl !== zones.ttl(following) && end.lastTtl !== NONE
        ? 'a TTL behind the included file would change'
        : undefined
    }
    const { origin, defaultTtl } = this.context(last)
    const ttl = this.retimed.get(last) ?? zones.ttl(last)
    const ttlKept = defaultTtl !== NONE || end.lastTtl === ttl || (end.lastTtl === NONE && end.minimum === ttl)
    const same =
      end.owner !== undefined &&
      foldName(end.owner) === foldName(zones.tree.text(zones.owner(last))) &&
      sameOctets(end.origin, origin) &&
      end.defaultTtl === defaultTtl &&
      ttlKept &&
      end.lastClass === zones.classOf(last)
    return same ? undefined : 'what is in force behind the change would be another'
  }

  /** That an entry of these sources is not closed: nobody can know where it was meant to end, nor what a change beside it comes to. */
  private unclosed(sources: readonly Source[], where: (problem: Problem) => boolean = () => true): Refused | undefined {
    for (const { file, octets, problems } of sources) {
      const open = problems.find((each) => UNCLOSED.has(each.kind) && !each.read && where(each))
      if (!open) continue
      const { line } = new LineIndex(octets).place(open.start)
      return {
        refused: `${file ? `${file}, ` : ''}line ${line}: ${open.message}; put that right first, since a change beside it could be read as a part of it`,
      }
    }
    return undefined
  }

  private describe({ owner, type, ttl, data }: Planned): string {
    return `${this.zones.tree.text(owner)} ${ttl} ${typeText(type)} ${rdataText(type, data)}`
  }

  /** Makes the zones what they are after the change. */
  settle(edited: ReadonlyMap<number, Uint8Array>): void {
    const { zones } = this
    const owners = this.settled.map(({ record, scratch, from, planned, source }) => ({
      record,
      planned,
      source,
      ttl: scratch.ttl(from),
      data: scratch.rdata(from).slice(),
      start: scratch.start(from),
      flags: scratch.flags(from),
      target: this.targetOf(scratch, from),
    }))
    for (const [source, octets] of edited) {
      zones.moveStarts(source, mover(this.splices.filter((splice) => splice.source === source)))
      zones.sources[source].octets = octets
    }
    for (const record of this.gone) zones.drop(record)
    for (const { record, planned, source, ttl, data, start, flags, target } of owners) {
      if (!planned) zones.alter(record, ttl, data, target, start, flags)
      else {
        const at = zones.data.length
        zones.data.put(data)
        zones.addRecord(planned.owner, planned.type, ttl, 1, source, start, at, target, flags)
      }
    }
    if (this.gone.has(this.zone.soa)) this.zone.soa = NONE
    const came = owners.flatMap(({ planned }) => (planned ? [planned] : []))
    // Where names only come to exist, nothing else moves.
    if (this.gone.size > 0 || came.some(({ type }) => SHAPING.has(type))) zones.seal()
    else {
      zones.sealNames()
      for (const { owner } of came) zones.markExisting(owner, this.zone)
    }
  }

  private targetOf(scratch: Zones, record: RecordId): NameId {
    const target = scratch.target(record)
    return target === NONE ? NONE : this.zones.tree.internWire(nameToWire(scratch.tree.text(target)) as Uint8Array)
  }
}

/** Where an octet of the file stands after the splices: whole lines put in before it move it, a change at its own beginning does not. */
function mover(splices: Splice[]): (at: number) => number {
  const encoder = new TextEncoder()
  const sorted = inOrder(splices).map(({ from, to, text: put }) => ({
    from,
    to,
    grows: encoder.encode(put).length - (to - from),
  }))
  return (at) => {
    let moved = at
    for (const { from, to, grows } of sorted) {
      if (from > at || (from === at && to > from)) break
      moved += grows
    }
    return moved
  }
}

function endOfLine(octets: Uint8Array): string {
  const newline = octets.indexOf(0x0a)
  return newline > 0 && octets[newline - 1] === 0x0d ? '\r\n' : '\n'
}

/** A value as text; several strings of a TXT record go into parentheses, one a line, where they are too long for one. */
function foldedText(type: number, data: Rdata, origin: Uint8Array | undefined, eol: string): string {
  const whole = rdataText(type, data, origin)
  if (type !== TYPE.TXT || whole.length <= LONG_TEXT) return whole
  const strings: string[] = []
  for (let at = 0; at < data.length; at += data[at] + 1) strings.push(stringText(data, at + 1, at + 1 + data[at]))
  return strings.length < 2 ? whole : `(${strings.map((each) => `${eol}    ${each}`).join('')} )`
}

const LONG_TEXT = 200
const UNSOUGHT = -2

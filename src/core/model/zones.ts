/**
 * The model: the records of all kept zones in columns, over one label tree.
 * A record is a number (`RecordId`), a name is a number (`NameId`). After `seal()`, what exists, which zone a name is in, and what lies below a cut are known.
 */

import { type Name, nameToWire, wireToName } from '../names/name.ts'
import { OctetSink, wider } from '../names/octets.ts'
import { type NameId, NameTree, NONE } from '../names/tree.ts'
import { type Rdata, rdataText } from '../records/rdata.ts'
import type { Problem } from '../records/tokens.ts'
import { TYPE } from '../records/types.ts'

export type RecordId = number
export type Seconds = number

/** `$ORIGIN` in wire octets and `$TTL` (NONE where there is none), from a record on. */
export interface ReadingContext {
  record: RecordId
  origin: Uint8Array
  defaultTtl: number
}

/** A file, or anything else that records were read from. */
export interface Source {
  zone: number
  /** As the person named it. */
  file: string
  octets: Uint8Array
  problems: Problem[]
  /** Where it was included from, and as what; undefined for a zone's own file. */
  includedBy?: { source: number; start: number; name: string }
  /** Its records, and those of the files that it includes: numbers from `firstRecord` up to (not including) `endRecord`. */
  firstRecord: RecordId
  endRecord: RecordId
  /** What was in force from which record on. */
  contexts: ReadingContext[]
  /** Types of records that are in the file, but could not be read. */
  brokenTypes: number[]
}

/** What the workspace says of a zone; all of it has a default. */
export interface ZoneTraits {
  /** Nobody else adds names to it: what is not in it does not exist. Default true. */
  complete?: boolean
  audience?: 'public' | 'private'
  /** Who signs it: the server, the file is signed already, or nobody. */
  signed?: 'server' | 'file' | 'no'
  /** Whom this version of the zone is for, where there are several: zones of different views may have the same name. */
  view?: string
  /** It is kept at a host with a web form, who numbers it: the serial in its file is left as it is. */
  hosted?: boolean
}

export interface Zone extends ZoneTraits {
  index: number
  apex: NameId
  name: Name
  /** The apex in wire octets, in its own spelling. */
  wire: Uint8Array
  file: string
  soa: RecordId
}

/** A record set as the edges see it. */
export interface RecordSet {
  owner: Name
  type: number
  ttl: Seconds
  data: Rdata[]
}

/** Bits of a record's `flags`. */
export const TARGET_RELATIVE = 1
export const TTL_STATED = 2
export const OUT_OF_ZONE = 4
/** It comes from a `$GENERATE` line: its place is that line. */
export const GENERATED = 8

/** It was taken out. */
export const DROPPED = 16

/** Bits of a name's state, set by `seal()`. */
const EXISTS = 1
const CUT = 2
const HAS_CNAME = 4
const HAS_DNAME = 8
/** At or below a cut, or below a DNAME. */
const COVERED = 16

export class Zones {
  readonly tree: NameTree
  readonly zones: Zone[] = []
  readonly sources: Source[] = []
  count = 0

  private capacity: number
  private owners: Int32Array
  private types: Uint16Array
  private ttls: Uint32Array
  private origins: Int32Array
  private starts: Uint32Array
  private dataAt: Uint32Array
  private dataLength: Uint16Array
  private targets: Int32Array
  private nexts: Int32Array
  private flagBits: Uint8Array
  private readonly oddClasses = new Map<RecordId, number>()
  readonly data: OctetSink

  /** The first record of each name, plus one: 0 where it has none. */
  private firsts: Int32Array = new Int32Array(0)
  private lasts: Int32Array = new Int32Array(0)

  private states: Uint8Array = new Uint8Array(0)
  private zoneAt: Int32Array = new Int32Array(0)
  private cutAt: Int32Array = new Int32Array(0)
  private dnameAt: Int32Array = new Int32Array(0)
  private zoneByApex = new Map<NameId, number>()

  constructor(expectedRecords = 64) {
    this.capacity = Math.max(64, expectedRecords)
    this.tree = new NameTree(this.capacity)
    // Data seldom takes more octets than its line; room that is never written to costs nothing.
    this.data = new OctetSink(this.capacity * 32)
    this.owners = new Int32Array(this.capacity)
    this.types = new Uint16Array(this.capacity)
    this.ttls = new Uint32Array(this.capacity)
    this.origins = new Int32Array(this.capacity)
    this.starts = new Uint32Array(this.capacity)
    this.dataAt = new Uint32Array(this.capacity)
    this.dataLength = new Uint16Array(this.capacity)
    this.targets = new Int32Array(this.capacity)
    this.nexts = new Int32Array(this.capacity)
    this.flagBits = new Uint8Array(this.capacity)
  }

  /** Adds a zone without records. `name` must be an absolute name. */
  addZone(name: Name, file: string, traits: ZoneTraits = {}): Zone {
    const wire = nameToWire(name)
    if (typeof wire === 'string') throw new Error(`not a zone name: ${name}`)
    const apex = this.tree.internWire(wire)
    const { complete, audience, signed, view, hosted } = traits
    const zone: Zone = {
      index: this.zones.length,
      apex,
      name: wireToName(wire),
      wire,
      file,
      soa: NONE,
      complete,
      audience,
      signed,
      view,
      hosted,
    }
    this.zones.push(zone)
    if (!this.zoneByApex.has(apex)) this.zoneByApex.set(apex, zone.index)
    return zone
  }

  addSource(zone: Zone, file: string, octets: Uint8Array, includedBy?: Source['includedBy']): number {
    this.sources.push({
      zone: zone.index,
      file,
      octets,
      problems: [],
      includedBy,
      firstRecord: this.count,
      endRecord: this.count,
      contexts: [],
      brokenTypes: [],
    })
    return this.sources.length - 1
  }

  /** Adds a record whose data is the end of `data`, from `dataStart` on. Records outside their zone are kept, but linked to no name. */
  addRecord(
    owner: NameId,
    type: number,
    ttl: Seconds,
    klass: number,
    source: number,
    start: number,
    dataStart: number,
    target: NameId,
    flags: number,
  ): RecordId {
    const id = this.count
    if (id === this.capacity) this.grow()
    this.count++
    this.owners[id] = owner
    this.types[id] = type
    this.ttls[id] = ttl
    this.origins[id] = source
    this.starts[id] = start
    this.dataAt[id] = dataStart
    this.dataLength[id] = this.data.length - dataStart
    this.targets[id] = target
    this.nexts[id] = NONE
    this.flagBits[id] = flags
    if (klass !== 1) this.oddClasses.set(id, klass)
    if (flags & OUT_OF_ZONE) return id
    if (owner >= this.firsts.length) {
      const capacity = Math.max(64, (owner + 1) * 2, this.capacity)
      this.firsts = wider(this.firsts, capacity)
      this.lasts = wider(this.lasts, capacity)
    }
    if (this.firsts[owner] === 0) this.firsts[owner] = id + 1
    else this.nexts[this.lasts[owner]!] = id
    this.lasts[owner] = id
    if (type === TYPE.SOA) {
      const zone = this.zones[this.sources[source]!.zone]!
      if (zone.soa === NONE && owner === zone.apex) zone.soa = id
    }
    return id
  }

  /** Takes a record out of its name's list. Its number stays, and belongs to nothing. */
  drop(record: RecordId): void {
    const owner = this.owners[record]!
    let before = NONE
    for (let each = this.first(owner); each !== NONE && each !== record; each = this.nexts[each]!) before = each
    if (before === NONE) this.firsts[owner] = this.nexts[record]! + 1
    else this.nexts[before] = this.nexts[record]!
    if (this.lasts[owner] === record) this.lasts[owner] = before
    this.flagBits[record] = OUT_OF_ZONE | DROPPED
    this.targets[record] = NONE
  }

  /** Gives a record another TTL, data, place in its source, and flags. */
  alter(record: RecordId, ttl: Seconds, data: Rdata, target: NameId, start: number, flags: number): void {
    this.ttls[record] = ttl
    this.dataAt[record] = this.data.length
    this.dataLength[record] = data.length
    this.data.put(data)
    this.targets[record] = target
    this.starts[record] = start
    this.flagBits[record] = flags
  }

  /** Moves the places of a source's records: `move` returns the new one for each. */
  moveStarts(source: number, move: (start: number) => number): void {
    for (let record = this.sources[source]!.firstRecord; record < this.sources[source]!.endRecord; record++)
      if (this.origins[record] === source) this.starts[record] = move(this.starts[record]!)
  }

  private grow(): void {
    this.capacity *= 2
    this.owners = wider(this.owners, this.capacity)
    this.types = wider(this.types, this.capacity)
    this.ttls = wider(this.ttls, this.capacity)
    this.origins = wider(this.origins, this.capacity)
    this.starts = wider(this.starts, this.capacity)
    this.dataAt = wider(this.dataAt, this.capacity)
    this.dataLength = wider(this.dataLength, this.capacity)
    this.targets = wider(this.targets, this.capacity)
    this.nexts = wider(this.nexts, this.capacity)
    this.flagBits = wider(this.flagBits, this.capacity)
  }

  owner(record: RecordId): NameId {
    return this.owners[record]!
  }
  type(record: RecordId): number {
    return this.types[record]!
  }
  ttl(record: RecordId): Seconds {
    return this.ttls[record]!
  }
  /** Whether any record has another class than IN. */
  hasOddClasses(): boolean {
    return this.oddClasses.size > 0
  }
  classOf(record: RecordId): number {
    return this.oddClasses.get(record) ?? 1
  }
  flags(record: RecordId): number {
    return this.flagBits[record]!
  }
  /** The name that the record points to, or NONE. */
  target(record: RecordId): NameId {
    return this.targets[record]!
  }
  source(record: RecordId): Source {
    return this.sources[this.origins[record]!]!
  }
  sourceIndex(record: RecordId): number {
    return this.origins[record]!
  }
  /** The records of a zone’s files, those of included files too, in the order in which they were read, then those that were added since; what other zones have is not touched. */
  *recordsIn(zone: Zone): Generator<RecordId> {
    const { byZone, end } = this.files()
    for (const { firstRecord, endRecord } of byZone[zone.index] ?? [])
      for (let record = firstRecord; record < endRecord; record++) yield record
    for (let record = end; record < this.count; record++)
      if (this.sources[this.origins[record]!]!.zone === zone.index) yield record
  }

  /** The files that each zone was read from, without those that they include; and how many records were read from all of them. */
  private files(): { byZone: Source[][]; end: number } {
    if (this.read?.sources !== this.sources.length) {
      const byZone: Source[][] = this.zones.map(() => [])
      let end = 0
      for (const source of this.sources) {
        if (!source.includedBy) byZone[source.zone]?.push(source)
        end = Math.max(end, source.endRecord)
      }
      this.read = { sources: this.sources.length, byZone, end }
    }
    return this.read
  }
  private read: { sources: number; byZone: Source[][]; end: number } | undefined

  zoneOfRecord(record: RecordId): Zone {
    return this.zones[this.sources[this.origins[record]!]!.zone]!
  }
  /** Octets from the beginning of its source to its entry. */
  start(record: RecordId): number {
    return this.starts[record]!
  }
  rdata(record: RecordId): Rdata {
    const at = this.dataAt[record]!
    return this.data.octets.subarray(at, at + this.dataLength[record]!)
  }
  /** Where the record's data begins in `data.octets`, and how many octets it has: for looking at it without making anything. */
  dataStart(record: RecordId): number {
    return this.dataAt[record]!
  }
  dataOctets(record: RecordId): number {
    return this.dataLength[record]!
  }
  /** The record's data in presentation form. */
  rdataText(record: RecordId): string {
    return rdataText(this.types[record]!, this.rdata(record))
  }
  /** The first record at a name, in the order of reading, or NONE. */
  first(name: NameId): RecordId {
    return name < this.firsts.length ? this.firsts[name]! - 1 : NONE
  }
  /** The next record at the same name, or NONE. */
  next(record: RecordId): RecordId {
    return this.nexts[record]!
  }

  /** Marks what exists, the cuts and the zone that each name is in. To be called when all records are there, and again after more were added. */
  seal(): void {
    const names = this.tree.count
    const states = new Uint8Array(names)
    const zoneAt = new Int32Array(names).fill(NONE)
    const cutAt = new Int32Array(names).fill(NONE)
    const dnameAt = new Int32Array(names).fill(NONE)
    for (const [apex, zone] of this.zoneByApex) zoneAt[apex] = zone
    for (let id = 1; id < names; id++) if (zoneAt[id] === NONE) zoneAt[id] = zoneAt[this.tree.parent(id)]!
    let divided = false
    const { owners, types, sources, origins, zones } = this
    for (let record = 0; record < this.count; record++) {
      if (this.flagBits[record]! & OUT_OF_ZONE) continue
      const owner = owners[record]!
      const zone = zoneAt[owner]
      if (zone === NONE || sources[origins[record]!]!.zone !== zone) {
        if (zone !== NONE) this.markAbove(owner, sources[origins[record]!]!.zone, states, zoneAt)
        continue
      }
      const type = types[record]
      const apex = zones[zone]!.apex
      if (type === TYPE.CNAME) states[owner]! |= HAS_CNAME
      else if ((type === TYPE.NS && owner !== apex) || type === TYPE.DNAME) {
        states[owner]! |= type === TYPE.NS ? CUT : HAS_DNAME
        divided = true
      }
      for (let here = owner; !(states[here]! & EXISTS); here = this.tree.parent(here)) {
        states[here]! |= EXISTS
        if (here === apex) break
      }
    }
    for (let id = 1; divided && id < names; id++) {
      if (zones[zoneAt[id]!]?.apex === id) continue
      const parent = this.tree.parent(id)
      cutAt[id] = cutAt[parent] !== NONE ? cutAt[parent]! : states[id]! & CUT ? id : NONE
      dnameAt[id] = dnameAt[parent] !== NONE ? dnameAt[parent]! : states[parent]! & HAS_DNAME ? parent : NONE
      if (cutAt[id] !== NONE || dnameAt[id] !== NONE) states[id]! |= COVERED
    }
    this.states = states
    this.zoneAt = zoneAt
    this.cutAt = cutAt
    this.dnameAt = dnameAt
  }

  /** A zone's record at or below the cut of another kept zone: the names between the two tops exist in the upper one, though they have nothing (RFC 4592 §2.2.2). */
  private markAbove(owner: NameId, zone: number, states: Uint8Array, zoneAt: Int32Array): void {
    const { apex } = this.zones[zone]!
    if (this.zones[zone] !== this.zoneWithApex(apex)) return
    let here = owner
    while (here !== apex && zoneAt[here] !== zone) here = this.tree.parent(here)
    for (; !(states[here]! & EXISTS); here = this.tree.parent(here)) {
      states[here]! |= EXISTS
      if (here === apex) return
    }
  }

  /** Gives names that were made known since `seal()` their places. To be called when names came, and no records. */
  sealNames(): void {
    const before = this.states.length
    const names = this.tree.count
    if (names === before) return
    this.states = wider(this.states, names)
    this.zoneAt = wider(this.zoneAt, names)
    this.cutAt = wider(this.cutAt, names)
    this.dnameAt = wider(this.dnameAt, names)
    for (let id = before; id < names; id++) {
      const parent = this.tree.parent(id)
      this.zoneAt[id] = this.zoneAt[parent]!
      this.cutAt[id] = this.cutAt[parent]!
      this.dnameAt[id] =
        this.dnameAt[parent] !== NONE ? this.dnameAt[parent]! : this.states[parent]! & HAS_DNAME ? parent : NONE
      if (this.cutAt[id] !== NONE || this.dnameAt[id] !== NONE) this.states[id]! |= COVERED
    }
  }

  /** After `sealNames()`: marks that a name has a record in a zone's file now, of a type that is neither a cut nor an alias. */
  markExisting(name: NameId, zone: Zone): void {
    if (this.zoneAt[name] !== zone.index) return
    for (let here = name; !(this.states[here]! & EXISTS); here = this.tree.parent(here)) {
      this.states[here]! |= EXISTS
      if (here === zone.apex) break
    }
  }

  /** The kept zone that a name is in (the deepest one), or undefined. */
  zoneOf(name: NameId): Zone | undefined {
    const index = this.zoneAt[name]!
    return index === NONE ? undefined : this.zones[index]
  }
  /** Whether a name has records, or names below it, in the zone that it is in. */
  exists(name: NameId): boolean {
    return (this.states[name]! & EXISTS) !== 0
  }
  /** The highest cut at or above a name inside its zone, or NONE. */
  cut(name: NameId): NameId {
    return this.cutAt[name]!
  }
  /** The highest DNAME above a name inside its zone, or NONE. */
  dnameAbove(name: NameId): NameId {
    return this.dnameAt[name]!
  }
  /** Whether a name is at or below a cut, or below a DNAME. */
  isCovered(name: NameId): boolean {
    return (this.states[name]! & COVERED) !== 0
  }
  hasCname(name: NameId): boolean {
    return (this.states[name]! & HAS_CNAME) !== 0
  }
  hasDname(name: NameId): boolean {
    return (this.states[name]! & HAS_DNAME) !== 0
  }
  zoneWithApex(apex: NameId): Zone | undefined {
    const index = this.zoneByApex.get(apex)
    return index === undefined ? undefined : this.zones[index]
  }

  /** The records of one type at a name that its own zone (or, if stated, another zone's file) holds. */
  records(name: NameId, type: number, zone: number = this.zoneAt[name]!): RecordId[] {
    const found: RecordId[] = []
    for (let record = this.first(name); record !== NONE; record = this.nexts[record]!)
      if (this.types[record] === type && this.sources[this.origins[record]!]!.zone === zone) found.push(record)
    return found
  }
  has(name: NameId, type: number): boolean {
    const zone = this.zoneAt[name]
    for (let record = this.first(name); record !== NONE; record = this.nexts[record]!)
      if (this.types[record] === type && this.sources[this.origins[record]!]!.zone === zone) return true
    return false
  }

  /** A record set for the edges: data in the order of the file, without repeats. */
  set(name: NameId, type: number, zone: number = this.zoneAt[name]!): RecordSet | undefined {
    const records = this.records(name, type, zone)
    return records.length === 0 ? undefined : this.setOf(records)
  }
  setOf(records: RecordId[]): RecordSet {
    const type = this.types[records[0]!]!
    return {
      owner: this.tree.text(this.owners[records[0]!]!),
      type,
      ttl: this.ttls[records[0]!]!,
      data: records.map((record) => this.rdata(record)),
    }
  }
}

/** The set of a type at a name of a zone, by the name's text; undefined where there is none. */
export function setAt(zones: Zones, zone: Zone, owner: Name, type: number): RecordSet | undefined {
  const wire = nameToWire(owner)
  const id = typeof wire === 'string' ? NONE : zones.tree.findWire(wire)
  return id === NONE ? undefined : zones.set(id, type, zone.index)
}

/** The types that a name has in a zone, in the order of its file. */
export function typesAt(zones: Zones, zone: Zone, owner: Name): Set<number> {
  const wire = nameToWire(owner)
  const id = typeof wire === 'string' ? NONE : zones.tree.findWire(wire)
  const types = new Set<number>()
  for (let record = id === NONE ? NONE : zones.first(id); record !== NONE; record = zones.next(record))
    if (zones.zoneOfRecord(record) === zone) types.add(zones.type(record))
  return types
}

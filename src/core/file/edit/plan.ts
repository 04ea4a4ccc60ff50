import { type RecordId, type Seconds, TTL_STATED, type Zone, type Zones } from '../../model/zones.ts'
import { nameToWire, wireToName } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { type Rdata, rdataKey } from '../../records/rdata.ts'
import { typeText } from '../../records/types.ts'
import { soa as soaView, withSerial } from '../../records/views.ts'
import { generateParts } from '../entry.ts'
import { advanceSerial } from '../serial.ts'
import type { Edited, SetChange } from './changes.ts'
import { endOfLine, foldedText, Layout } from './layout.ts'
import type { Splice } from './splices.ts'

/** What records stand together, as a text that is equal for those that do: new ones are put behind the last of theirs. */
export type Alike = (zones: Zones, zone: Zone, owner: NameId, type: number, data: Rdata) => string

/** A record that is to be there: the new ones, and those that get another TTL or other data. */
export interface Planned {
  owner: NameId
  type: number
  ttl: Seconds
  ttlStated: boolean
  data: Rdata
}

/** What a change comes to: which records go, come and become another, and the splices that make it so. */
export class Plan extends Layout {
  readonly splices: Splice[] = []
  /** Records that go; records put in behind another (NONE: where there is none); and what records become. */
  readonly gone = new Set<RecordId>()
  readonly added = new Map<RecordId, Planned[]>()
  readonly retimed = new Map<RecordId, Seconds>()
  readonly renewed = new Map<RecordId, Rdata>()
  readonly touched = new Set<RecordId>()
  private readonly alike: Alike

  constructor(zones: Zones, zone: Zone, alike: Alike = (_zones, _zone, _owner, type) => String(type)) {
    super(zones, zone)
    this.alike = alike
  }

  private splice(record: RecordId, from: number, to: number, put: string): void {
    this.splices.push({ source: this.zones.sourceIndex(record), from, to, text: put })
    this.touched.add(record)
  }

  /** Takes a change into the plan. */
  change(change: SetChange): void {
    const { zones } = this
    const owner = zones.tree.internWire(nameToWire(change.owner) as Uint8Array)
    const present = zones.first(owner) === NONE ? [] : zones.records(owner, change.type, this.zone.index)
    const ttl = change.ttl ?? (present.length > 0 ? zones.ttl(present[0]!) : this.defaultTtl())
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

  advance(soa: RecordId, now: Date): Edited['serial'] {
    return this.renumber(soa, advanceSerial(soaView(this.zones.rdata(soa)).serial, now))
  }

  /** The serial's token is changed, nothing else of the record. */
  renumber(soa: RecordId, after: number): Edited['serial'] {
    const data = this.zones.rdata(soa)
    const before = soaView(data).serial
    const [from, to] = this.parts(soa).values[2]!
    this.splice(soa, from, to, String(after))
    this.renewed.set(soa, withSerial(data, after))
    return { before, after }
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
      this.splice(record, parts.values[0]![0], parts.values[parts.values.length - 1]![1], value)
    else this.splice(record, parts.type[1], this.behindLastSign(record, parts), ` ${value}`)
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
    const neighbour = this.neighbourFor(owner, type, data[0]!, present)
    let behind = neighbour
    const sameOwner = neighbour !== NONE && zones.owner(neighbour) === owner
    // Lines that take their owner from the neighbour stay behind it.
    if (neighbour !== NONE && !sameOwner) behind = this.lastOfOwner(neighbour)
    const source = behind === NONE ? this.root : zones.sourceIndex(behind)
    const { octets } = zones.sources[source]!
    const at = behind === NONE ? octets.length : this.parts(behind).end
    const { origin, defaultTtl } = behind === NONE ? zones.sources[source]!.contexts.at(-1)! : this.context(behind)
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
        if (!this.isGenerated(next) && (at === source || !this.isInside(this.zones.sources[at]!, source))) break
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
  stateBefore(record: RecordId): { owner: NameId; ttl: number } {
    const { zones } = this
    let owner = NONE
    // Where there is a $TTL, the last stated one means nothing: it need not be looked for.
    let ttl = this.context(record).defaultTtl === NONE ? NONE : UNSOUGHT
    // After an include the owner is again the includer's.
    const includers = new Set<number>()
    for (
      let each: number | undefined = zones.sourceIndex(record);
      each !== undefined;
      each = zones.sources[each]!.includedBy?.source
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
}

const UNSOUGHT = -2

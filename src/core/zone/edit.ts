/**
 * Changes record sets in a zone file's text and leaves every other octet as it is. A change becomes splices; the result is read back
 * and compared with what was intended before anybody sees it.
 */
import { foldName, type Name, nameToWire, wireToName } from '../names/name.ts'
import { sameOctets, u32At } from '../names/octets.ts'
import { type NameId, NONE } from '../names/tree.ts'
import { stringText } from '../records/fields.ts'
import { type Rdata, rdataKey, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import { type EntryParts, partsAt } from './entry.ts'
import { LineIndex } from './places.ts'
import { type Included, readZone } from './reader.ts'
import { advanceSerial } from './serial.ts'
import { GENERATED, type RecordId, type Seconds, TARGET_RELATIVE, TTL_STATED, Zones, type ZoneTraits } from './zones.ts'

/** What a set shall be: all its data, none for a set that shall not be there. Without `ttl` it keeps its TTL, or takes the file's default. */
export interface SetChange {
  owner: Name
  type: number
  ttl?: Seconds
  data: Rdata[]
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
  /** Included files that change too: each as messages name it, and as it becomes. */
  included: { file: string; octets: Uint8Array }[]
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

/** Puts splices into octets. They must not overlap; those at one place go in their order. */
function applySplices(octets: Uint8Array, splices: Splice[]): Uint8Array {
  const encoder = new TextEncoder()
  const parts: Uint8Array[] = []
  let at = 0
  for (const splice of [...splices].sort((a, b) => a.from - b.from)) {
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

/** One entry of a file as the editor needs it. */
interface Line {
  source: number
  start: number
  end: number
  record: RecordId
  ownerStated: boolean
  origin: Uint8Array
  defaultTtl: number
}

export interface EditOptions {
  /** Advances the serial in its own style, unless nothing changed or the SOA record itself is among the changes. */
  now?: Date
  traits?: ZoneTraits
  /** The zone's own file, as messages name it, and what reads the files that it includes. */
  file?: string
  include?: (name: string, from: string) => Included
}

/**
 * Makes the changes in a zone file and in the files that it includes: a set is changed where it stands.
 * Refuses files that are signed (unless `traits.signed` is `server`), sets that `$GENERATE` makes, and whatever does not read back exactly as intended.
 */
export function editZone(octets: Uint8Array, zoneName: Name, changes: SetChange[], options: EditOptions = {}): Edited | Refused {
  const { now, traits = {}, file = '', include } = options
  const { zones, lines } = readLines(octets, zoneName, file, include)
  const refused = whyNot(zones, traits) ?? changes.map((change) => generated(zones, change)).find(Boolean)
  if (refused) return { refused }
  const editor = new Editor(zones, lines)
  for (const change of changes) editor.change(change)
  let serial: Edited['serial']
  const soa = zones.zones[0].soa
  if (now && editor.splices.length > 0 && soa !== NONE && !changes.some((change) => change.type === TYPE.SOA)) serial = editor.advance(soa, now)
  editor.keepNeighbours()
  const edited = new Map<string, Uint8Array>()
  for (const index of new Set(editor.splices.map((splice) => splice.source))) {
    const source = zones.sources[index]
    if (edited.has(source.file)) return { refused: `${source.file} is included twice: a change of it would be one in two places` }
    edited.set(
      source.file,
      applySplices(
        source.octets,
        editor.splices.filter((splice) => splice.source === index),
      ),
    )
  }
  const own = edited.get(file) ?? octets
  const overlaid =
    include &&
    ((name: string, from: string): Included => {
      const found = include(name, from)
      return 'failed' in found ? found : { file: found.file, octets: edited.get(found.file) ?? found.octets }
    })
  const after = readLines(own, zoneName, file, overlaid).zones
  const difference = unintended(zones, after, changes, serial?.after)
  if (difference) return { refused: `the changed file would not read as intended (${difference}); nothing was written` }
  after.seal()
  edited.delete(file)
  return { octets: own, included: [...edited].map(([name, text]) => ({ file: name, octets: text })), zones: after, serial }
}

function readLines(octets: Uint8Array, zoneName: Name, file: string, include: EditOptions['include']): { zones: Zones; lines: Line[] } {
  const zones = new Zones()
  const lines: Line[] = []
  const source = zones.addSource(zones.addZone(zoneName, file), file, octets)
  readZone(zones, source, {
    include,
    observer: ({ source: index, kind, start, end, record, ownerStated, origin, defaultTtl }) => {
      if (kind !== 'empty') lines.push({ source: index, start, end, record, ownerStated, origin, defaultTtl })
    },
  })
  return { zones, lines }
}

/** Why a set cannot be changed because a `$GENERATE` line makes some of it. */
function generated(zones: Zones, change: SetChange): string | undefined {
  const owner = zones.tree.findWire(nameToWire(change.owner) as Uint8Array)
  if (owner === NONE || zones.first(owner) === NONE) return undefined
  const record = zones.records(owner, change.type, 0).find((each) => zones.flags(each) & GENERATED)
  if (record === undefined) return undefined
  const source = zones.source(record)
  const { line } = new LineIndex(source.octets).place(zones.start(record))
  return `${change.owner} ${typeText(change.type)} is made by $GENERATE at line ${line}${source.file ? ` of ${source.file}` : ''}, together with other names: change that line, or write its records out`
}

function whyNot(zones: Zones, traits: ZoneTraits): string | undefined {
  const [source] = zones.sources
  if (source.problems.some((problem) => problem.kind === 'binary')) return 'this is no zone file'
  const signed: number[] = [TYPE.RRSIG, TYPE.NSEC, TYPE.NSEC3]
  let type = [...source.brokenTypes].find((each) => signed.includes(each))
  for (let record = 0; type === undefined && record < zones.count; record++) if (signed.includes(zones.type(record))) type = zones.type(record)
  if (type !== undefined && traits.signed !== 'server')
    return `the file is signed (it has ${typeText(type)} records in it): a change would make the whole zone fail validation. Change the unsigned file, or state “signed: server” for the zone if a server signs it anew`
  return undefined
}

class Editor {
  readonly splices: Splice[] = []
  private readonly zones: Zones
  private readonly lines: Line[]
  private readonly lineOf = new Map<RecordId, number>()
  /** Lines that go, and records put in behind a line (by its index, −1 for the beginning): what the lines behind them inherit from. */
  private readonly gone = new Set<number>()
  private readonly added = new Map<number, { owner: NameId; ttl: Seconds; ttlStated: boolean }[]>()
  private readonly retimed = new Map<number, Seconds>()

  constructor(zones: Zones, lines: Line[]) {
    this.zones = zones
    this.lines = lines
    lines.forEach((line, i) => {
      if (line.record !== NONE) this.lineOf.set(line.record, i)
    })
  }

  private octetsOf(line: Line): Uint8Array {
    return this.zones.sources[line.source].octets
  }
  private slice(line: Line, from: number, to: number): string {
    return text.decode(this.octetsOf(line).subarray(from, to))
  }
  private parts(line: Line): EntryParts {
    return partsAt(this.octetsOf(line), line.start)
  }
  private lineFor(record: RecordId): Line {
    return this.lines[this.lineOf.get(record)!]
  }

  change(change: SetChange): void {
    const { zones } = this
    const owner = zones.tree.internWire(nameToWire(change.owner) as Uint8Array)
    const present = zones.first(owner) === NONE ? [] : zones.records(owner, change.type, 0)
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
      if (data) this.replaceData(record, data, ttl)
      else this.remove(record)
    }
    if (fresh.length > 0) this.insert(owner, change.type, ttl, fresh, present)
  }

  /** The serial's token is changed, nothing else of the record. */
  advance(soa: RecordId, now: Date): Edited['serial'] {
    const data = this.zones.rdata(soa)
    const before = u32At(data, data.length - 20)
    const after = advanceSerial(before, now)
    const line = this.lineFor(soa)
    const [from, to] = this.parts(line).values[2]
    this.splices.push({ source: line.source, from, to, text: String(after) })
    return { before, after }
  }

  private defaultTtl(): Seconds {
    const last = this.lines.findLast((line) => line.record !== NONE)
    if (last && last.defaultTtl !== NONE) return last.defaultTtl
    return last ? this.zones.ttl(last.record) : 3600
  }

  private remove(record: RecordId): void {
    const index = this.lineOf.get(record)!
    const { source, start, end } = this.lines[index]
    this.gone.add(index)
    this.splices.push({ source, from: start, to: end, text: '' })
  }

  private restateTtl(record: RecordId, ttl: Seconds): void {
    const index = this.lineOf.get(record)!
    const { source } = this.lines[index]
    const parts = this.parts(this.lines[index])
    this.retimed.set(index, ttl)
    if (parts.ttl) this.splices.push({ source, from: parts.ttl[0], to: parts.ttl[1], text: String(ttl) })
    else {
      const before = (parts.class ?? parts.type)[0]
      this.splices.push({ source, from: before, to: before, text: `${ttl} ` })
    }
  }

  private replaceData(record: RecordId, data: Rdata, ttl: Seconds): void {
    const { zones } = this
    const line = this.lineFor(record)
    const { source } = line
    const parts = this.parts(line)
    const type = zones.type(record)
    const relative = this.targetsRelative(record)
    const value = foldedText(type, data, relative ? line.origin : undefined, endOfLine(this.octetsOf(line)))
    if (zones.ttl(record) !== ttl) this.restateTtl(record, ttl)
    const end = this.behindLastSign(line, parts)
    if (parts.values.length > 0 && !this.hasParenthesis(line, parts))
      this.splices.push({ source, from: parts.values[0][0], to: parts.values[parts.values.length - 1][1], text: value })
    else this.splices.push({ source, from: parts.type[1], to: end, text: ' ' + value })
  }

  /** Between the type and the end of the entry, outside its tokens. */
  private hasParenthesis(line: Line, parts: EntryParts): boolean {
    let at = parts.start
    const tokens = [parts.owner, parts.ttl, parts.class, parts.type, ...parts.values].filter((each) => each !== undefined).sort((a, b) => a[0] - b[0])
    for (const [start, end] of tokens) {
      if (/[()]/.test(this.slice(line, at, start))) return true
      at = end
    }
    return false
  }

  private behindLastSign(line: Line, parts: EntryParts): number {
    const octets = this.octetsOf(line)
    let end = parts.end
    while (end > parts.start && (octets[end - 1] === 0x0a || octets[end - 1] === 0x0d)) end--
    return end
  }

  /** Whether a record gives its target relative to the origin; where it has none, or one outside the zone, whether its owner is relative. */
  private targetsRelative(record: RecordId): boolean {
    const { zones } = this
    const target = zones.target(record)
    if (target !== NONE && zones.tree.isAtOrBelow(target, zones.zones[0].apex) && target !== zones.zones[0].apex)
      return (zones.flags(record) & TARGET_RELATIVE) !== 0
    return this.ownersRelative(record)
  }

  private ownersRelative(record: RecordId): boolean {
    for (let index = this.lineOf.get(record)!; index >= 0; index--) {
      const line = this.lines[index]
      if (line.record === NONE || !line.ownerStated) continue
      const [start, end] = this.parts(line).owner!
      const octets = this.octetsOf(line)
      return octets[end - 1] !== 0x2e || octets[start] === 0x40
    }
    return true
  }

  /** Behind the set, else behind the owner's other records, else behind the last record of that type, else at the end. */
  private neighbourFor(owner: NameId, type: number, present: RecordId[]): RecordId {
    const { zones } = this
    const staying = (record: RecordId): boolean => this.lineOf.has(record) && !this.gone.has(this.lineOf.get(record)!)
    const last = present.findLast(staying)
    if (last !== undefined) return last
    let found = NONE
    for (let record = zones.first(owner); record !== NONE; record = zones.next(record)) if (staying(record)) found = record
    if (found !== NONE) return found
    for (let record = zones.count - 1; record >= 0; record--) if (zones.type(record) === type && staying(record)) return record
    for (let record = zones.count - 1; record >= 0; record--) if (staying(record)) return record
    return NONE
  }

  private insert(owner: NameId, type: number, ttl: Seconds, data: Rdata[], present: RecordId[]): void {
    const { zones, lines } = this
    const neighbour = this.neighbourFor(owner, type, present)
    let index = neighbour === NONE ? lines.length - 1 : this.lineOf.get(neighbour)!
    const sameOwner = neighbour !== NONE && zones.owner(neighbour) === owner
    // Lines that take their owner from the neighbour stay behind it.
    if (!sameOwner)
      while (index + 1 < lines.length && lines[index + 1].source === lines[index].source && lines[index + 1].record !== NONE && !lines[index + 1].ownerStated)
        index++
    const line = index < 0 ? undefined : lines[index]
    const octets = line ? this.octetsOf(line) : zones.sources[0].octets
    const at = line ? line.end : octets.length
    const origin = line ? line.origin : zones.zones[0].wire
    const styleLine = neighbour === NONE ? undefined : this.lineFor(neighbour)
    const relative = neighbour === NONE || this.ownersRelative(neighbour)
    const ownerText = relative ? wireToName(this.wire(owner), 0, origin) : zones.tree.text(owner)
    const ttlStated = (line ? line.defaultTtl : NONE) !== ttl || (neighbour !== NONE && (zones.flags(neighbour) & TTL_STATED) !== 0)
    const targets = neighbour !== NONE && zones.type(neighbour) === type ? this.targetsRelative(neighbour) : relative
    const blankOwner = sameOwner && styleLine !== undefined && !styleLine.ownerStated
    const unfinished = at > 0 && octets[at - 1] !== 0x0a
    const eol = unfinished || at < 2 ? endOfLine(octets) : octets[at - 2] === 0x0d ? '\r\n' : '\n'
    const block = data
      .map(
        (each) =>
          this.entryText(
            styleLine,
            blankOwner ? undefined : ownerText,
            ttlStated ? String(ttl) : undefined,
            typeText(type),
            foldedText(type, each, targets ? origin : undefined, eol),
          ) + eol,
      )
      .join('')
    this.splices.push({ source: line?.source ?? 0, from: at, to: at, text: unfinished ? eol + block.slice(0, -eol.length) : block })
    this.added.set(index, [...(this.added.get(index) ?? []), ...data.map(() => ({ owner, ttl, ttlStated }))])
  }

  private wire(name: NameId): Uint8Array {
    return nameToWire(this.zones.tree.text(name)) as Uint8Array
  }

  /** A record in the layout of a neighbour: its columns, its class or none; without `owner`, with the neighbour's leading blanks. */
  private entryText(styleLine: Line | undefined, owner: string | undefined, ttl: string | undefined, type: string, value: string): string {
    if (!styleLine) return [owner ?? '', ttl, 'IN', type, value].filter((part) => part !== undefined).join(' ')
    const style = this.parts(styleLine)
    const lineStart = style.start
    const klass = style.class && this.slice(styleLine, ...style.class)
    let line = owner ?? this.slice(styleLine, lineStart, (style.ttl ?? style.class ?? style.type)[0])
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
    const value0 = style.values[0]
    let before = style.owner?.[1] ?? -1
    for (const [part, place] of [...middle, [type, style.type], [value, value0]] as const) {
      if (part === undefined) continue
      if (line.trim() === '' && owner === undefined) {
        line += part
        before = place ? place[1] : before
        continue
      }
      const gap = place && before >= 0 && before < place[0] ? this.slice(styleLine, before, place[0]) : ' '
      if (gap.includes('\t') && /^[ \t]*$/.test(gap)) line += gap + part
      else line = line.padEnd(place && /^ *$/.test(gap) ? place[0] - lineStart - 1 : 0) + ' ' + part
      before = place ? place[1] : before
    }
    return line
  }

  /** Lines behind a change that take their owner or their TTL from the line above get it written out where the line above is now another. */
  keepNeighbours(): void {
    const touched = [...this.gone, ...this.added.keys(), ...this.retimed.keys()].sort((a, b) => a - b)
    const told = new Set<number>()
    for (const index of touched) {
      let next = index + 1
      while (next < this.lines.length && (this.lines[next].record === NONE || this.gone.has(next))) next++
      if (next >= this.lines.length || told.has(next)) continue
      told.add(next)
      this.keepLine(next)
    }
  }

  private keepLine(index: number): void {
    const { zones } = this
    const line = this.lines[index]
    const parts = this.parts(line)
    const before = this.stateBefore(index)
    const owner = zones.owner(line.record)
    if (!line.ownerStated && before.owner !== owner) {
      const name = wireToName(this.wire(owner), 0, line.origin)
      const first = (parts.ttl ?? parts.class ?? parts.type)[0]
      const blanks = this.slice(line, line.start, first)
      this.splices.push({
        source: line.source,
        from: line.start,
        to: first,
        text: blanks.includes('\t') ? name + blanks : name.padEnd(blanks.length - 1) + ' ',
      })
    }
    if (!parts.ttl && line.defaultTtl === NONE && before.ttl !== zones.ttl(line.record) && !this.retimed.has(index))
      this.restateTtl(line.record, zones.ttl(line.record))
  }

  /** The owner and the stated TTL in force just before a line, after the changes. */
  private stateBefore(index: number): { owner: NameId; ttl: number } {
    const { zones, lines } = this
    let owner = NONE
    let ttl = NONE
    // After an include the owner is again the includer's.
    const includers = new Set<number>()
    for (let each: number | undefined = lines[index].source; each !== undefined; each = zones.sources[each].includedBy?.source) includers.add(each)
    for (let i = index - 1; i >= -1 && (owner === NONE || ttl === NONE); i--) {
      for (const added of [...(this.added.get(i) ?? [])].reverse()) {
        if (owner === NONE && (i < 0 || includers.has(lines[i].source))) owner = added.owner
        if (ttl === NONE && added.ttlStated) ttl = added.ttl
      }
      if (i < 0 || this.gone.has(i) || this.lines[i].record === NONE) continue
      const { record } = this.lines[i]
      if (owner === NONE && includers.has(lines[i].source)) owner = zones.owner(record)
      if (ttl === NONE && (zones.flags(record) & TTL_STATED || this.retimed.has(i))) ttl = this.retimed.get(i) ?? zones.ttl(record)
    }
    return { owner, ttl }
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

/** What differs between the two readings beyond the changes, or nothing. */
function unintended(before: Zones, after: Zones, changes: SetChange[], serial: number | undefined): string | undefined {
  const wantedSets = new Map(changes.map((change) => [`${foldName(change.owner)} ${change.type}`, change]))
  const changed = (zones: Zones, record: RecordId): SetChange | undefined =>
    wantedSets.size === 0 ? undefined : changesAt(zones, record, wantedSets, typesOf(changes))
  const found = new Map<SetChange, RecordId[]>(changes.map((change) => [change, []]))
  const names = new Int32Array(before.tree.count).fill(NONE)
  let other = 0
  for (let record = 0; record < before.count; record++) {
    if (changed(before, record)) continue
    for (let change: SetChange | undefined; other < after.count && (change = changed(after, other)); other++) found.get(change)!.push(other)
    if (other >= after.count) return `${describe(before, record)} would be lost`
    const owner = before.owner(record)
    if (names[owner] === NONE && foldName(before.tree.text(owner)) === foldName(after.tree.text(after.owner(other)))) names[owner] = after.owner(other)
    const same =
      names[owner] === after.owner(other) &&
      before.type(record) === after.type(other) &&
      before.ttl(record) === after.ttl(other) &&
      before.classOf(record) === after.classOf(other) &&
      (sameOctets(before.rdata(record), after.rdata(other)) ||
        (serial !== undefined && record === before.zones[0].soa && sameBesideSerial(before.rdata(record), after.rdata(other), serial)))
    if (!same) return `${describe(before, record)} would become ${describe(after, other)}`
    other++
  }
  for (let change: SetChange | undefined; other < after.count; other++) {
    if (!(change = changed(after, other))) return `${describe(after, other)} would be new`
    found.get(change)!.push(other)
  }
  for (const [change, records] of found) {
    const wanted = new Set(change.data.map((data) => rdataKey(change.type, data)))
    const there = new Set(records.map((record) => rdataKey(change.type, after.rdata(record))))
    if (wanted.size !== there.size || [...wanted].some((key) => !there.has(key))) return `${change.owner} ${typeText(change.type)} would not be as asked`
    if (change.ttl !== undefined && records.some((record) => after.ttl(record) !== change.ttl))
      return `the TTL of ${change.owner} ${typeText(change.type)} would not be as asked`
  }
  const unread = (zones: Zones): number => zones.sources.reduce((sum, source) => sum + source.problems.length, 0)
  if (unread(before) !== unread(after)) return 'what cannot be read of it would change'
  return undefined
}

const typesOf = (changes: SetChange[]): Set<number> => new Set(changes.map((change) => change.type))

function changesAt(zones: Zones, record: RecordId, wanted: Map<string, SetChange>, types: Set<number>): SetChange | undefined {
  const type = zones.type(record)
  return types.has(type) ? wanted.get(`${foldName(zones.tree.text(zones.owner(record)))} ${type}`) : undefined
}

function sameBesideSerial(before: Rdata, after: Rdata, serial: number): boolean {
  const at = before.length - 20
  return (
    after.length === before.length &&
    u32At(after, at) === serial &&
    sameOctets(before.subarray(0, at), after.subarray(0, at)) &&
    sameOctets(before.subarray(at + 4), after.subarray(at + 4))
  )
}

function describe(zones: Zones, record: RecordId): string {
  return `${zones.tree.text(zones.owner(record))} ${zones.ttl(record)} ${typeText(zones.type(record))} ${zones.rdataText(record)}`
}

import {
  GENERATED,
  type RecordId,
  type Seconds,
  type Source,
  TARGET_RELATIVE,
  type Zone,
  type Zones,
} from '../../model/zones.ts'
import { nameToWire } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { stringText } from '../../records/fields.ts'
import { type Rdata, rdataText } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { type EntryParts, partsAt } from '../entry.ts'

const text = new TextDecoder()

/** How a zone file is written: where the parts of its entries stand, and how a new one looks beside a neighbour. */
export class Layout {
  readonly zones: Zones
  readonly zone: Zone
  /** The zone's own source; its first record, and that behind its last. */
  readonly root: number
  readonly first: RecordId
  readonly end: RecordId

  constructor(zones: Zones, zone: Zone) {
    this.zones = zones
    this.zone = zone
    this.root = zones.sources.findIndex((source) => source.zone === zone.index)
    this.first = zones.sources[this.root]!.firstRecord
    this.end = zones.sources[this.root]!.endRecord
  }

  octetsOf(record: RecordId): Uint8Array {
    return this.zones.source(record).octets
  }

  slice(record: RecordId, from: number, to: number): string {
    return text.decode(this.octetsOf(record).subarray(from, to))
  }

  parts(record: RecordId): EntryParts {
    return partsAt(this.octetsOf(record), this.zones.start(record))
  }

  ownerStated(record: RecordId): boolean {
    const first = this.octetsOf(record)[this.zones.start(record)]
    return first !== 0x20 && first !== 0x09
  }

  isGenerated(record: RecordId): boolean {
    return (this.zones.flags(record) & GENERATED) !== 0
  }

  /** What was in force where a record stands. */
  context(record: RecordId): { origin: Uint8Array; defaultTtl: number } {
    const { contexts } = this.zones.source(record)
    let low = 0
    let high = contexts.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (contexts[middle]!.record <= record) low = middle
      else high = middle - 1
    }
    return contexts[low]!
  }

  /** Between the tokens of the entry. */
  hasParenthesis(record: RecordId, parts: EntryParts): boolean {
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

  behindLastSign(record: RecordId, parts: EntryParts): number {
    const octets = this.octetsOf(record)
    let end = parts.end
    while (end > parts.start && (octets[end - 1] === 0x0a || octets[end - 1] === 0x0d)) end--
    return end
  }

  /** Whether a record gives its target relative to the origin; where it has none, or one outside the zone, whether its owner is relative. */
  targetsRelative(record: RecordId): boolean {
    const { zones } = this
    const target = zones.target(record)
    if (target !== NONE && zones.tree.isAtOrBelow(target, this.zone.apex) && target !== this.zone.apex)
      return (zones.flags(record) & TARGET_RELATIVE) !== 0
    return this.ownersRelative(record)
  }

  ownersRelative(record: RecordId): boolean {
    for (let each = record; each >= this.first; each--) {
      if (this.isGenerated(each) || !this.ownerStated(each)) continue
      const [start, end] = this.parts(each).owner!
      const octets = this.octetsOf(each)
      return octets[end - 1] !== 0x2e || octets[start] === 0x40
    }
    return true
  }

  /** The last of the lines behind a record that take their owner from it. What is included or generated between them leaves the owner as it was. */
  lastOfOwner(record: RecordId): RecordId {
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

  isInside(each: Source, source: number): boolean {
    for (let here: Source | undefined = each; here?.includedBy; here = this.zones.sources[here.includedBy.source])
      if (here.includedBy.source === source) return true
    return false
  }

  wire(name: NameId): Uint8Array {
    return nameToWire(this.zones.tree.text(name)) as Uint8Array
  }

  lastRecord(): RecordId {
    for (let record = this.end - 1; record >= this.first; record--) if (!this.isGenerated(record)) return record
    return NONE
  }

  defaultTtl(): Seconds {
    const last = this.lastRecord()
    if (last === NONE)
      return this.zones.sources[this.root]!.contexts.at(-1)!.defaultTtl === NONE
        ? 3600
        : this.zones.sources[this.root]!.contexts.at(-1)!.defaultTtl
    const { defaultTtl } = this.context(last)
    return defaultTtl === NONE ? this.zones.ttl(last) : defaultTtl
  }

  /** A record in the layout of a neighbour: its columns, its class or none; without `owner`, with the neighbour's leading blanks. */
  entryText(
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
}

export function endOfLine(octets: Uint8Array): string {
  const newline = octets.indexOf(0x0a)
  return newline > 0 && octets[newline - 1] === 0x0d ? '\r\n' : '\n'
}

/** A value as text; several strings of a TXT record go into parentheses, one a line, where they are too long for one. */
export function foldedText(type: number, data: Rdata, origin: Uint8Array | undefined, eol: string): string {
  const whole = rdataText(type, data, origin)
  if (type !== TYPE.TXT || whole.length <= LONG_TEXT) return whole
  const strings: string[] = []
  for (let at = 0; at < data.length; at += data[at]! + 1) strings.push(stringText(data, at + 1, at + 1 + data[at]!))
  return strings.length < 2 ? whole : `(${strings.map((each) => `${eol}    ${each}`).join('')} )`
}

const LONG_TEXT = 200

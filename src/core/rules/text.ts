/** Texts of TXT records as rules look at them: read once for all records that say the same, and with the places of what is in them. */

import { entryParts } from '../file/entry.ts'
import { isSpf } from '../mail/spf/record.ts'
import type { TextProblem } from '../mail/tags.ts'
import { GENERATED, type RecordId, type Source, type Zones } from '../model/zones.ts'
import { readEscape } from '../names/name.ts'
import { type NameId, NONE } from '../names/tree.ts'
import { stringText } from '../records/fields.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import type { Context, Report } from './rule.ts'

const SLOTS = 8192

/** Remembers what was made of a text’s octets: of a million texts, most say what others say. Octets are looked at four at a time. */
export class TextMemory<T> {
  private readonly known: (DataView | undefined)[] = new Array(SLOTS)
  private readonly made: T[] = new Array(SLOTS)
  private readonly make: (text: string) => T
  /** The data looked at last. */
  private data: DataView = new DataView(new ArrayBuffer(0))

  constructor(make: (text: string) => T) {
    this.make = make
  }

  of(zones: Zones, record: RecordId): T {
    const { octets } = zones.data
    if (this.data.buffer !== octets.buffer) this.data = new DataView(octets.buffer, octets.byteOffset, octets.length)
    const { data } = this
    const at = zones.dataStart(record)
    const end = at + zones.dataOctets(record)
    let hash = end - at
    let i = at
    for (; i < end - 3; i += 4) {
      hash = Math.imul(hash ^ data.getInt32(i), 0x9e3779b1)
      hash ^= hash >>> 15
    }
    for (; i < end; i++) hash = Math.imul(hash ^ data.getUint8(i), 0x9e3779b1)
    hash ^= hash >>> 16
    const slot = hash & (SLOTS - 1)
    if (this.isAt(slot, data, at, end)) return this.made[slot]!
    // Two texts with one place would push each other out again and again.
    const second = slot ^ 1
    if (this.isAt(second, data, at, end)) return this.made[second]!
    const free = this.known[slot] && !this.known[second] ? second : slot
    const text = octets.slice(at, end)
    this.known[free] = new DataView(text.buffer)
    return (this.made[free] = this.make(joined(text)))
  }

  private isAt(slot: number, data: DataView, at: number, end: number): boolean {
    const known = this.known[slot]
    if (known === undefined || known.byteLength !== end - at) return false
    let i = at
    for (; i < end - 3; i += 4) if (known.getInt32(i - at) !== data.getInt32(i)) return false
    for (; i < end; i++) if (known.getUint8(i - at) !== data.getUint8(i)) return false
    return true
  }
}

const V_SPF1 = Uint8Array.from('v=spf1', (sign) => sign.charCodeAt(0))

/** Whether a name has a text that begins as an SPF record does. */
export const hasSpf = (zones: Zones, name: NameId): boolean => spfRecordAt(zones, name) !== NONE

/** The record at a name whose text begins as an SPF record does, or NONE. Nothing is made for it: this is asked of every name with mail. */
export function spfRecordAt(zones: Zones, name: NameId): RecordId {
  for (let record = zones.first(name); record !== NONE; record = zones.next(record)) {
    if (zones.type(record) !== TYPE.TXT) continue
    const data = zones.data.octets
    const at = zones.dataStart(record)
    const length = data[at]!
    let i = 0
    while (i < 6 && i < length && (i === 1 || i === 5 ? data[at + 1 + i] : data[at + 1 + i]! | 0x20) === V_SPF1[i]) i++
    if (i === 6 && (length === 6 || data[at + 7] === 0x20)) return record
    // The version may be cut between two strings: they are joined first (RFC 7208 §3.3).
    if (i === length && length < 6 && isSpf(joined(zones.rdata(record)))) return record
  }
  return NONE
}

/** Where characters of the joined text stand in the file; undefined where no such text was written. */
export function placeInText(
  zones: Zones,
  record: RecordId,
  start: number,
  end: number,
): { source: Source; start: number; end: number } | undefined {
  if (zones.flags(record) & GENERATED) return undefined
  const source = zones.source(record)
  const { octets } = source
  let left = start
  let length = Math.max(1, end - start)
  let from = -1
  for (const [begin, stop] of entryParts(zones, record).values) {
    const quoted = octets[begin] === 0x22
    if (!quoted && octets[begin] === 0x5c && octets[begin + 1] === 0x23) return undefined
    let at = begin + (quoted ? 1 : 0)
    const last = stop - (quoted ? 1 : 0)
    while (at < last) {
      const read = octets[at] === 0x5c ? readEscape(octets, at, last) : 1 << 8
      if (read < 0) return undefined
      if (left === 0 && from < 0) from = at
      if (left > 0) left--
      else length--
      at += read >> 8
      if (from >= 0 && length === 0) return { source, start: from, end: at }
    }
    // What goes on in the next string is marked as far as this one goes.
    if (from >= 0) return { source, start: from, end: last }
  }
  return undefined
}

/** Reports something wrong inside a text, at its place. */
export function reportText(
  cx: Context,
  record: RecordId,
  problem: Pick<TextProblem, 'start' | 'end'>,
  report: Omit<Report, 'record' | 'at' | 'part'>,
): void {
  cx.report({ record, part: 0, at: placeInText(cx.zones, record, problem.start, problem.end), ...report })
}

/** A TXT record to copy, with another text; long ones in several strings. */
export function line(cx: Context, record: RecordId, text: string): string {
  return textLine(cx.name(cx.zones.owner(record)), text)
}

export function textLine(owner: string, text: string): string {
  return `${owner} TXT ${quoted(text.match(/[\s\S]{1,255}/g) ?? [''])}`
}

/** Strings, one character an octet, as a zone file has them. */
export const quoted = (strings: readonly string[]): string =>
  strings
    .map((each) => {
      const octets = Uint8Array.from(each, (sign) => sign.charCodeAt(0))
      return stringText(octets, 0, octets.length)
    })
    .join(' ')

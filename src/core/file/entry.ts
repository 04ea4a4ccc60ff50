/** The parts of one record's entry in its file, found by reading that entry again. */

import { GENERATED, type RecordId, type Zones } from '../model/zones.ts'
import { rdataFields } from '../records/rdata.ts'
import { scanEntry } from '../records/scan.ts'
import { TokenCursor } from '../records/tokens.ts'
import { parseTtl } from '../records/ttl.ts'
import { parseClass } from '../records/types.ts'

/** Octets from the beginning of the source, `[start, end]`, quotes included. */
export type Stretch = [number, number]

export interface EntryParts {
  start: number
  /** Behind the entry's newline. */
  end: number
  owner?: Stretch
  ttl?: Stretch
  class?: Stretch
  type: Stretch
  values: Stretch[]
}

/** Where the parts of a record's entry stand. The record must have been read from a source. */
export function entryParts(zones: Zones, record: RecordId): EntryParts {
  return partsAt(zones.source(record).octets, zones.start(record))
}

const SHARED = new TokenCursor(new Uint8Array())

/** The same for the entry that begins at `start` of a file, which must hold a record that was read. */
export function partsAt(octets: Uint8Array, start: number): EntryParts {
  const cursor = SHARED
  cursor.octets = octets
  const { end } = scanEntry(octets, start, cursor)
  const stretch = (token: number): Stretch => [
    cursor.starts[token]! - cursor.quoted[token]!,
    cursor.ends[token]! + cursor.quoted[token]!,
  ]
  const parts: EntryParts = { start, end, type: [start, start], values: [] }
  let token = 0
  const blank = octets[start] === 0x20 || octets[start] === 0x09
  if (!blank) parts.owner = stretch(token++)
  for (; token < cursor.count; token++) {
    if (!parts.ttl && parseTtl(octets, cursor.starts[token]!, cursor.ends[token]!) >= 0) parts.ttl = stretch(token)
    else if (!parts.class && parseClass(cursor.word(token)) !== undefined) parts.class = stretch(token)
    else break
  }
  parts.type = stretch(token++)
  for (; token < cursor.count; token++) parts.values.push(stretch(token))
  return parts
}

/** Of the `$GENERATE` line that begins at `start` of a file: the place behind its owner, and its TTL where it states one. */
export function generateParts(octets: Uint8Array, start: number): { behindOwner: number; ttl?: Stretch } {
  const cursor = SHARED
  cursor.octets = octets
  scanEntry(octets, start, cursor)
  const behindOwner = cursor.ends[2]! + cursor.quoted[2]!
  for (let token = 3; token < cursor.count; token++) {
    if (parseTtl(octets, cursor.starts[token]!, cursor.ends[token]!) >= 0)
      return { behindOwner, ttl: [cursor.starts[token]!, cursor.ends[token]!] }
    if (parseClass(cursor.word(token)) === undefined) break
  }
  return { behindOwner }
}

/** The value as it was written: the token at `index` of a record's values; of a generated record, the value that it has. */
export function writtenValue(zones: Zones, record: RecordId, index: number): string {
  if (zones.flags(record) & GENERATED) return rdataFields(zones.type(record), zones.rdata(record))[index]!
  const place = entryParts(zones, record).values[index]
  return place ? new TextDecoder().decode(zones.source(record).octets.subarray(...place)) : ''
}

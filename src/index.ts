/** The library's front door: what other programs may build on. Described in docs/library.md; nothing else is promised. */

import { CLOCK } from './cli/clock.ts'
import type { Vantage } from './core/confirm/observation.ts'
import { LineIndex } from './core/file/places.ts'
import { readZone } from './core/file/reader.ts'
import type { Included } from './core/file/reading.ts'
import { zoneNameClues } from './core/file/zone-name.ts'
import type { MessageRecord } from './core/message/message.ts'
import { type Source, Zones } from './core/model/zones.ts'
import { bare, type Name, toName } from './core/names/name.ts'
import { octetsOf } from './core/names/octets.ts'
import { fetchZone } from './net/transfer.ts'

export { editZone } from './core/change/edit.ts'
export type { Edited, SetChange } from './core/file/edit/changes.ts'
export type { Included } from './core/file/reading.ts'
export { advanceSerial, serialAfter } from './core/file/serial.ts'
export { type Answer, type AnswerKind, answer } from './core/knowledge/answer.ts'
export { keyText as dkimKeyText, parseKey as parseDkimKey } from './core/mail/dkim/key.ts'
export { readDmarc, withTags as dmarcWithTags } from './core/mail/dmarc/record.ts'
export type { Found, Lookup, LookupType } from './core/mail/lookup.ts'
export {
  type CheckHostInput,
  type CheckHostResult,
  checkHost,
  type SpfResult,
  type SpfStep,
} from './core/mail/spf/check-host.ts'
export { buildSpf, mergeSpf } from './core/mail/spf/merge.ts'
export { parseSpf, spfText } from './core/mail/spf/record.ts'
export type { RecordSet, Zone, Zones } from './core/model/zones.ts'
export { type Name, toName } from './core/names/name.ts'
export { parseRdata, rdataText } from './core/records/rdata.ts'
export { parseType, typeText } from './core/records/types.ts'
export type { Refused, Result } from './core/result.ts'
export { type CheckResult, check } from './core/rules/engine.ts'
export type { Finding, Severity } from './core/rules/rule.ts'

/** A record as a program wants it. */
export interface ZoneRecord {
  /** Absolute, with its final dot, special octets escaped (RFC 4343 §2.1). */
  owner: Name
  /** 1 for IN. */
  class: number
  /** Seconds. */
  ttl: number
  /** The type's number; `typeText` names it. */
  type: number
  /** The data's octets on the wire, names in them uncompressed; `rdataText` writes them out. */
  data: Uint8Array
  file: string
  /** From one; columns count characters. The place of the owner, or of the first thing on a line without one. */
  line: number
  column: number
}

/** What could not be read, stands outside the zone, or is read differently by some servers. The rest was read all the same. */
export interface ZoneProblem {
  /** In one word, as the findings of the family `file/` have it. */
  kind: string
  message: string
  /** What would be right. */
  wanted: string
  /** What stands there. */
  value: string
  /** Whether the entry is among the records nevertheless. */
  read: boolean
  file: string
  line: number
  column: number
}

export interface ParsedZone {
  zone: Name
  records: ZoneRecord[]
  problems: ZoneProblem[]
}

export interface ParseOptions {
  /** The zone that the file is for. Without it, the owner of its SOA record or an absolute `$ORIGIN` must say so. */
  zone?: string
  /** What places call the file. Default: `zone`. */
  file?: string
  /** Reads what `$INCLUDE` names, seen from the file `from`. Without it, an include is a problem. */
  include?: (name: string, from: string) => Included
}

/**
 * Reads a zone file (RFC 1035 §5) from text or octets: its records in the order of the file, and every problem with its place.
 * Bad input never throws; only a file for which nothing says the zone, or a `zone` that is no domain name, is a TypeError.
 */
export function parseZoneFile(input: string | Uint8Array, options: ParseOptions = {}): ParsedZone {
  const octets = typeof input === 'string' ? octetsOf(input) : input
  const { zones, zone } = load([{ input: octets, ...options }])
  const places = new Map<Source, LineIndex>()
  const placeOf = (source: Source, start: number): { file: string; line: number; column: number } => {
    let index = places.get(source)
    if (!index) places.set(source, (index = new LineIndex(source.octets)))
    return { file: source.file, ...index.place(start) }
  }
  const records = Array.from({ length: zones.count }, (_, record): ZoneRecord => {
    const source = zones.source(record)
    let start = zones.start(record)
    while (source.octets[start] === 0x20 || source.octets[start] === 0x09) start++
    return {
      owner: zones.tree.text(zones.owner(record)),
      class: zones.classOf(record),
      ttl: zones.ttl(record),
      type: zones.type(record),
      data: zones.rdata(record).slice(),
      ...placeOf(source, start),
    }
  })
  const problems = zones.sources.flatMap((source) =>
    source.problems.map(
      ({ kind, message, wanted, value, start, read }): ZoneProblem => ({
        kind,
        message,
        wanted,
        value,
        read: read === true || kind === 'out-of-zone',
        ...placeOf(source, start),
      }),
    ),
  )
  return { zone, records, problems }
}

/** Zone files read together into one model, for `check` and `answer`. Throws a TypeError as `parseZoneFile` does. */
export function keepTogether(files: ({ input: string | Uint8Array } & ParseOptions)[]): Zones {
  return load(files).zones
}

function load(files: ({ input: string | Uint8Array } & ParseOptions)[]): { zones: Zones; zone: Name } {
  const zones = new Zones()
  let zone: Name = '.'
  for (const { input, zone: stated, file, include } of files) {
    const octets = typeof input === 'string' ? octetsOf(input) : input
    const clues = stated === undefined ? zoneNameClues(octets) : {}
    const name = stated === undefined ? (clues.soaOwner ?? clues.origin) : toName(stated)
    if (name === undefined)
      throw new TypeError(
        stated === undefined
          ? 'nothing says which zone the file is for: state it as `zone`'
          : `${stated} is no domain name`,
      )
    zone = name
    const called = file ?? bare(name)
    readZone(zones, zones.addSource(zones.addZone(name, called), called, octets), { include })
  }
  zones.seal()
  return { zones, zone }
}

/** All records of a zone by zone transfer over TCP (RFC 5936), in the order in which they came, the closing SOA record left out; or why there are none. `limitMs`: how long all of it may take. */
export async function transferZone(
  server: Pick<Vantage, 'label' | 'address' | 'port'>,
  zone: Name,
  limitMs = 60_000,
): Promise<{ records: MessageRecord[] } | { failed: string }> {
  const records: MessageRecord[] = []
  const take = (came: readonly MessageRecord[]): void => {
    for (const record of came) records.push(record)
  }
  const fetched = await fetchZone(server, zone, { clock: CLOCK, limitMs, take })
  return 'failed' in fetched ? { failed: fetched.failed } : { records }
}

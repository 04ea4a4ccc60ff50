/** A zone file, or a table of records, as it is given. */
import type { RecordId, Zones } from '../../../core/model/zones.ts'
import { bare, foldName, isAtOrBelow, type Name } from '../../../core/names/name.ts'
import { octetsOf } from '../../../core/names/octets.ts'
import { NONE } from '../../../core/names/tree.ts'
import { TYPE } from '../../../core/records/types.ts'
import { isRefused } from '../../../core/result.ts'
import { readInstructions } from '../../../core/transcribe/read.ts'
import type { Row } from '../../../core/transcribe/record.ts'
import { decodeText } from '../../../core/transcribe/text.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { bareFiles, loadZones, type ZoneFile } from '../../../workspace/workspace.ts'
import { today } from '../../clock.ts'
import { newZoneText } from '../new-zone.ts'
import type { Arrived } from './arrived.ts'
import { Made } from './made.ts'

export interface FileOptions {
  zone?: string
  ns?: string[]
  includeAnywhere?: boolean
}

/** Zone files stay as they are, to the last octet; of a table a tidy zone file is made. */
export function fromFile(given: string, options: FileOptions): Arrived {
  const file = bareFiles([given === '-' ? '/dev/stdin' : given], options.zone)[0]!
  const zones = loadZones([file], options.includeAnywhere)
  const rows = isZoneFile(zones) ? [] : rowsOf(file, zones.count)
  if (rows.length > 0) return fromRows(given, foldName(file.zone), rows, options)
  return { given, by: 'file', file, zones, traits: {}, complete: true, notes: [] }
}

const isZoneFile = ({ zones, sources }: Zones): boolean =>
  zones[0]!.soa !== NONE || sources.every(({ problems }) => problems.every(({ read }) => read))

/** The rows of a table; none for what is none. `least` is how many records it has as a zone file. */
function rowsOf({ file, zone, octets }: ZoneFile, least: number): Row[] {
  const decoded = decodeText(octets)
  if (isRefused(decoded)) return []
  const { rows, unread, blanks } = readInstructions(decoded.text, zone)
  if (rows.length < Math.max(least, 1)) return []
  const faults = [
    ...unread.map(({ line, text, why }) => ({ line, why: `${why} (${text.trim()})` })),
    ...blanks.map(({ line, text }) => ({ line, why: `${text} is a placeholder` })),
    ...rows.flatMap(({ line, damage }) => (damage === undefined ? [] : [{ line, why: damage }])),
    ...rows
      .filter(({ owner }) => !isAtOrBelow(owner, zone))
      .map(({ line, owner }) => ({ line, why: `${owner} is not in the zone ${zone}` })),
  ]
  if (faults.length === 0) return rows
  const lines = faults.sort((a, b) => a.line - b.line).map(({ line, why }) => `\n  line ${line}: ${why}`)
  throw new Trouble(`${file}: not all of this table can be read; nothing was adopted${lines.join('')}`, 1)
}

function fromRows(given: string, zone: Name, rows: readonly Row[], { ns }: FileOptions): Arrived {
  const isAt = (type: number) => (row: { owner: Name; type: number }) =>
    row.type === type && foldName(row.owner) === zone
  const notes = [`Read as a table: ${rows.length} rows.`]
  const made = new Made(zone)
  try {
    const stated = ns ?? rows.filter(isAt(TYPE.NS)).map(({ value }) => value)
    const hasSoa = rows.some(isAt(TYPE.SOA))
    if (!hasSoa || !rows.some(isAt(TYPE.NS))) {
      const servers = stated.length > 0 ? stated : [NOBODY]
      const text = newZoneText(zone, servers, undefined, today())
      const fresh = loadZones([{ zone, file: given, octets: octetsOf(text) }])
      made.take(recordsOf(fresh, (type) => (type === TYPE.SOA ? !hasSoa : !rows.some(isAt(TYPE.NS)))))
      notes.push(
        `${hasSoa ? 'NS records' : 'SOA and NS records'} were made for it: ${servers.map(bare).join(', ')}${stated.length > 0 ? '' : ' stands for name servers that the table does not state. Fix: adopt it with --ns HOST'}.`,
      )
    }
    made.take(rows.map(({ owner, type, ttl, data }) => ({ owner, type, class: 1, ttl: ttl ?? TTL, data })))
    return { given, by: 'table', ...made.whole(), traits: {}, complete: true, notes }
  } finally {
    made.drop()
  }
}

/** A name that never exists (RFC 6761 §6.4). */
const NOBODY = 'ns.invalid.'
/** Seconds, where a table states none. */
const TTL = 3600

const recordsOf = (zones: Zones, isWanted: (type: number) => boolean) =>
  [...zones.recordsIn(zones.zones[0]!)]
    .filter((record: RecordId) => isWanted(zones.type(record)))
    .map((record: RecordId) => ({
      owner: zones.tree.text(zones.owner(record)),
      type: zones.type(record),
      class: 1,
      ttl: zones.ttl(record),
      data: zones.rdata(record),
    }))

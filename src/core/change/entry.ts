/** What the log says of a zone that became another one. */
import type { RecordSet, Seconds } from '../model/zones.ts'
import { foldName, type Name, nameToWire } from '../names/name.ts'
import { parseRdata } from '../records/rdata.ts'
import { typeText } from '../records/types.ts'
import type { Severity } from '../rules/rule.ts'
import { type SetPreview, setJson } from './change-set.ts'

/** What gave a zone other data: a command, somebody who edited its file by hand, a command that put something back; or it was brought in. */
export const DATA_ENTRIES = ['change', 'edited', 'restored', 'adopted'] as const
export type DataWord = (typeof DATA_ENTRIES)[number]

export interface EntrySide {
  ttl: Seconds
  records: string[]
}

/** A set before and after; owners are absolute and in lower case. */
export interface EntrySet {
  owner: Name
  type: string
  before: EntrySide | null
  after: EntrySide | null
}

/** A line of the log. */
export interface DataEntry {
  id: string
  /** ISO 8601. */
  at: string
  what: DataWord
  zone: Name
  view?: string
  command: string
  /** From the workspace’s folder. */
  file: string
  serial: { before: number; after: number } | null
  sets: EntrySet[]
  findings: Record<'added' | 'gone', { rule: string; severity: Severity; owner: Name; type: string | null }[]>
  /** The copy of the zone’s file: as it was before a change or a restore; as it was from then on for the others. From the workspace’s folder. */
  backup: string | null
  /** What tells whether that copy is still what it was. */
  sum?: string
  /** All that the zone’s files held then, those that it includes, too, where there are any: a copy in one piece, and its sum. */
  whole?: string
  wholeSum?: string
  /** Of a zone that was brought in: how, and from which server. */
  by?: 'file' | 'table' | 'transfer' | 'asking'
  from?: string
  /** All that came, where something of it was left out: a copy, and its sum. */
  came?: string
  cameSum?: string
  /** The digest of the zone’s data before. */
  was?: string
  /** Afterwards. */
  digest: string
}

/** Whether a line of a log is of a zone that became another one. */
export function isDataEntry(line: unknown): line is DataEntry {
  const { at, what, zone, sets } = (line ?? {}) as Record<string, unknown>
  return (
    typeof at === 'string' &&
    !Number.isNaN(Date.parse(at)) &&
    typeof zone === 'string' &&
    DATA_ENTRIES.some((each) => each === what) &&
    Array.isArray(sets) &&
    sets.every((each) => typeof each?.owner === 'string' && isSide(each.before) && isSide(each.after))
  )
}

const isSide = (side: unknown): boolean =>
  side === null || (Array.isArray((side as EntrySide)?.records) && typeof (side as EntrySide).ttl === 'number')

/** Sets as the log has them. */
export const entrySets = (sets: readonly SetPreview[]): EntrySet[] =>
  sets.map(({ owner, type, before, after }) => ({
    owner: foldName(owner),
    type: typeText(type),
    before: setJson(before),
    after: setJson(after),
  }))

const ROOT = new Uint8Array([0])

/** A side of such a set as a record set; undefined where its text cannot be read. */
export function sideSet(owner: Name, type: number, side: EntrySide): RecordSet | undefined {
  if (typeof nameToWire(owner) === 'string') return undefined
  const data = side.records.flatMap((text) => {
    const parsed = parseRdata(type, text, ROOT)
    return 'wire' in parsed ? [parsed.wire] : []
  })
  return data.length === side.records.length ? { owner, type, ttl: side.ttl, data } : undefined
}

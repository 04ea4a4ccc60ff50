/** What a rule is made of. A rule's file opens with what it means and closes with how it is found. */
import type { NameId } from '../names/tree.ts'
import type { Problem } from '../records/tokens.ts'
import type { RecordId, Source, Zone, Zones } from '../zone/zones.ts'

export type Severity = 'error' | 'warning' | 'advice'

/**
 * An example: the text of the zone hollowmere.example without its head (a sound SOA and NS set is put in front), or the texts of several zones.
 * With `whole`, nothing is put in front.
 */
export type Example = string | { whole?: boolean; zones: Record<string, string> }

export interface Rule {
  /** Its name for good: `family/name`. */
  code: string
  severity: Severity
  /** The standard and section that says so. */
  source: string
  /** What it finds, in one line. */
  title: string
  /** What happens in practice where it is broken. */
  why: string
  /** How to put it right. */
  remedy: string
  /** Rules that say nothing of a record of which this one speaks: one mistake, one finding. */
  silences?: string[]
  bad: Example[]
  good: Example[]
  visit: Visitor
}

/** A record set as the walk hands it over; the object is reused, so nothing of it may be kept. */
export interface SetView {
  zone: Zone
  owner: NameId
  type: number
  records: RecordId[]
}

export interface Visitor {
  /** Once for each kept zone. */
  zone?(zone: Zone, cx: Context): void
  /** For each record set of these types that is not below a cut. */
  set?: Partial<Record<number, (set: SetView, cx: Context) => void>>
  /** For each set of two records or more, whatever its type. */
  several?(set: SetView, cx: Context): void
  /** What the reader could not read. Returns whether it spoke of it; the first rule that does is the only one. */
  problem?(problem: Problem, source: Source, cx: Context): boolean
  /** When everything was seen. */
  finish?(cx: Context): void | Promise<void>
}

/** Which part of the record's entry a finding points at: its owner, TTL or type, or the value at an index. */
export type Part = 'owner' | 'ttl' | 'type' | number

export interface Report {
  /** The record that it is about; its owner, type and place are taken from it. */
  record?: RecordId
  part?: Part
  /** Where there is no such record. */
  owner?: NameId
  type?: number
  zone?: Zone
  /** A place in a file, in octets. */
  at?: { source: Source; start: number; end?: number }
  message: string
  consequence: string
  /** The lines to write, or what to do. */
  fix?: string[]
  severity?: Severity
}

/** What a rule works with during a walk. */
export interface Context {
  zones: Zones
  report(report: Report): void
  /** A name as text, absolute. */
  name(id: NameId): string
  /** "line 12", or "line 12 of FILE" where the file is another than that of `besides`. */
  where(record: RecordId, besides?: RecordId): string
  /** "MX 10 mail.hollowmere.example." */
  record(record: RecordId): string
  /** The same with another target: "MX 10 host.hollowmere.example." */
  withTarget(record: RecordId, target: string): string
  /** Visits every record that the walk is about, those outside their zone included. */
  eachRecord(visit: (record: RecordId) => void): void
  /** Memory of this rule during this walk: made by `start` when it is first asked for. */
  memory<T>(start: () => T): T
}

export interface Finding {
  rule: string
  severity: Severity
  /** Absolute, in lower case. */
  owner: string
  type: string | null
  file: string
  line: number
  column: number
  message: string
  consequence: string
  fix: string[]
  source: string
  /** The text of that line, and how many characters of it are meant, for showing. */
  text: string
  length: number
}

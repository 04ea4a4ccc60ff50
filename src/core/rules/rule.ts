/** What a rule is made of. A rule's file opens with what it means and closes with how it is found. */

import type { SetChange } from '../file/edit/changes.ts'
import type { Find, Knowledge } from '../knowledge/find.ts'
import type { RecordId, Source, Zone, Zones, ZoneTraits } from '../model/zones.ts'
import type { Name } from '../names/name.ts'
import type { NameId } from '../names/tree.ts'
import type { Problem } from '../records/tokens.ts'
import type { Refused } from '../result.ts'

export type Severity = 'error' | 'warning' | 'advice'

/** A reverse proxy or edge network that answers with its own addresses. */
export interface Front {
  label: string
  /** Networks, as in 203.0.113.0/24. */
  ranges: string[]
  names: string[]
}

/** A zone's top that takes the addresses of another name. */
export interface Follow {
  owner: string
  target: string
}

/** A finding that is accepted, with a reason. */
export interface Exception {
  rule: string
  /** The owner; undefined: wherever it is. */
  at?: string
  reason: string
  /** Where it is written. */
  place?: FilePlace
}

/** A place in a file that is no zone file. */
export interface FilePlace {
  file: string
  line: number
  column: number
  /** That line, and how many characters of it are meant. */
  text: string
  length: number
}

/** A private key of the workspace, by its public half. */
export interface KeptKey {
  /** The selector that it is for: absolute. */
  owner: string
  file: string
  /** Read when it is asked for: as `p=` would have it (base64), or why it cannot be read. */
  publicHalf(): Promise<{ key: string } | Refused>
}

/** The text of a policy of MTA-STS that the workspace keeps. */
export interface KeptPolicy {
  /** Absolute. */
  domain: string
  file: string
  text: string
}

/** A set whose TTL was lowered and not raised again. */
export interface Lowered {
  /** Lower case, absolute. */
  owner: string
  type: string
  /** The TTL that it had, and the one that it was lowered to, in seconds. */
  from: number
  to: number
  /** Seconds since 1970. */
  at: number
  view?: string
}

/** What is known beyond the zone files. */
export interface Surroundings {
  /** Without it, nothing is said of dates. */
  now?: Date
  fronts?: readonly Front[]
  follows?: readonly Follow[]
  exceptions?: readonly Exception[]
  keys?: readonly KeptKey[]
  policies?: readonly KeptPolicy[]
  /** The zones as they were last published. */
  published?: Zones
  /** Sets whose TTL was lowered, by the log. */
  lowered?: readonly Lowered[]
  /** What servers say that are asked, where the call allows it; without it, nothing is said of what only they know. */
  asked?: Find
  /** The same of each of them by itself. */
  askedOfEach?: (name: Name, type: number) => Promise<Knowledge[]>
}

/**
 * An example: the text of the zone hollowmere.example without its head (a sound SOA and NS set is put in front), or the texts of several zones.
 * With `whole`, nothing is put in front; a zone may be there twice, the second time with a space behind its name.
 */
export type Example =
  | string
  | {
      whole?: boolean
      zones: Record<string, string>
      traits?: Record<string, ZoneTraits>
      published?: Record<string, string>
      around?: Omit<Surroundings, 'published'>
    }

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
  /** What users, senders or receivers notice, where it is the same for each finding, or for each severity. */
  effect?: string | Record<Severity, string>
  /** Rules that say nothing of a record of which this one speaks: one mistake, one finding. */
  silences?: string[]
  /** Speaks only where servers may be asked. */
  live?: true
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

/** A visit that is made only where one of these bits is set (see traits.ts). */
export interface When<Visit> {
  when: number
  visit: Visit
}

export type SetVisit = (set: SetView, cx: Context) => void

export interface Visitor {
  /** Whether the rule can say anything of these zones at all; asked once. Default: yes. */
  applies?(cx: Context): boolean
  /** Once for each kept zone. */
  zone?(zone: Zone, cx: Context): void
  /** For each record set of these types that is not below a cut. */
  set?: Partial<Record<number, SetVisit | When<SetVisit>>>
  /** For each set of two records or more, whatever its type. */
  several?(set: SetView, cx: Context): void
  /** For each record with such a trait, those outside their zone included. */
  record?: When<(record: RecordId, cx: Context) => void>
  /** For each exception, when everything was seen: how many findings it matched. */
  exception?(exception: Exception, matched: number, cx: Context): void
  /** What the reader could not read. Returns whether it spoke of it; the first rule that does is the only one. */
  problem?(problem: Problem, source: Source, cx: Context): boolean
  /** When everything was seen. */
  finish?(cx: Context): void | Promise<void>
}

/** Which part of the record's entry a finding points at: its owner, TTL or type, or the value at an index. */
export type Part = 'owner' | 'ttl' | 'type' | number

export interface Report {
  /** The code of the rule that says so, where several share one visit: what they look for comes of one reading. */
  code?: string
  /** The record that it is about; its owner, type and place are taken from it. */
  record?: RecordId
  part?: Part
  /** Where there is no such record. */
  owner?: NameId
  type?: number
  zone?: Zone
  /** A place in a file, in octets. */
  at?: { source: Source; start: number; end?: number }
  place?: FilePlace
  message: string
  /** Default: that of the rule. */
  effect?: string
  /** The lines to write, or what to do. */
  fix?: string[]
  severity?: Severity
  /** Other records that the same mistake is in: what the rule silences is silenced there, too. */
  also?: readonly RecordId[]
  /** The change, where exactly one is right. */
  repair?: Repair
}

/** Octets of a source replaced, or a set of a zone changed. */
export type Repair =
  | {
      at: { source: Source; start: number; end: number }
      text: string
      /** Other stretches of the source that become the same. */
      also?: readonly { start: number; end: number }[]
    }
  | { zone: Zone; change: SetChange }

/** What a rule works with during a walk. */
export interface Context {
  zones: Zones
  around: Surroundings
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
  /** Visits every name that the walk is about. */
  eachName(visit: (name: NameId) => void): void
  /** Whether the walk is about the name. */
  isAbout(name: NameId): boolean
  /** The files that a zone was read from; its own first. */
  sourcesOf(zone: Zone): readonly Source[]
  /** `text` in place of what stands at a part of a record's entry; undefined for a record that no line of its own makes. */
  rewriting(record: RecordId, part: Part, text: string): Repair | undefined
  /** Memory of this rule during this walk: made by `start` when it is first asked for. */
  memory<T>(start: () => T): T
}

export interface Finding {
  rule: string
  severity: Severity
  /** Absolute, in lower case. */
  owner: string
  type: string | null
  /** The zone in whose file it is; empty where it is in none. */
  zone: string
  file: string
  line: number
  column: number
  message: string
  effect: string
  fix: string[]
  source: string
  /** The text of that line, and how many characters of it are meant, for showing. */
  text: string
  length: number
  repair?: Repair
}

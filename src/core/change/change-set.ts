/** What shall change, over one zone or many, and what goes with it. Every command that writes makes one; it is previewed, and then written whole or not at all. */

import type { SetChange } from '../file/edit/changes.ts'
import type { RecordSet, Zone } from '../model/zones.ts'
import type { Name } from '../names/name.ts'
import type { Finding } from '../rules/rule.ts'
import { RecordSetView } from '../view/record-set.ts'

export interface ChangeSet {
  /** Zone by zone, in the order in which people are told of them. */
  parts: readonly ZonePart[]
  /** Files that must be there when the zones are, and not without them. */
  beside?: readonly FileBeside[]
}

/** What shall change in one zone. */
export interface ZonePart {
  zone: Zone
  sets: readonly SetChange[]
  /** What its own file shall hold instead of what it holds, but for the serial; `sets` are what that changes. */
  octets?: Uint8Array
  /** What to know of the change. */
  notes?: readonly string[]
}

/** A file that goes with zones: a private key, the text of a policy, a zone file that is taken over, bramblefront.yaml. */
export interface FileBeside {
  path: string
  content: Uint8Array | string
  /** What it must hold still; undefined where there must be no such file yet. */
  before?: Uint8Array
  /** Permissions of a new file. Default: as the system gives them. */
  mode?: number
  /** Permissions of its folder, where that is made for it. */
  folderMode?: number
  /** What it is, for people; undefined for what they need not be told of. */
  what?: string
}

/** What a set is before and after. */
export interface SetPreview {
  owner: Name
  type: number
  before?: RecordSet
  after?: RecordSet
}

/** A file that changes: as messages name it, as it was read, and as it becomes. */
export interface FileChange {
  file: string
  before: Uint8Array
  octets: Uint8Array
}

export interface ZonePreview {
  zone: Zone
  sets: SetPreview[]
  /** Files that change: those that the zone’s own file includes first, its own last. */
  files: FileChange[]
  /** The SOA serial before and after, where it is advanced. */
  serial?: { before: number; after: number }
  /** Digests of the zone’s data before and afterwards (see digest.ts), where they are wanted. */
  was: string
  digest: string
  notes: readonly string[]
}

export interface FindingsPreview {
  /** Findings that were not there before; at the names that are written first. */
  added: Finding[]
  /** What else there is to say of these names. */
  standing: Finding[]
  /** Findings that are no longer there. */
  gone: Finding[]
}

export interface Preview {
  zones: readonly ZonePreview[]
  findings: FindingsPreview
}

/** A set as JSON has it. */
export const setJson = (set: RecordSet | undefined): { ttl: number; records: string[] } | null =>
  set ? new RecordSetView(set).json : null

/** A set that stays as it is while the zones change. */
export const copyOf = (set: RecordSet | undefined): RecordSet | undefined =>
  set && { ...set, data: set.data.map((data) => data.slice()) }

/** Findings that say the same of a set before and after a change. */
export const findingKey = ({ rule, owner, type }: Pick<Finding, 'rule' | 'owner' | 'type'>): string =>
  `${rule} ${owner} ${type ?? ''}`

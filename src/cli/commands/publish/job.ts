/** What is published of a zone by a delivery, and what came of it. */
import type { SetPreview } from '../../../core/change/change-set.ts'
import { setJson } from '../../../core/change/change-set.ts'
import type { Sets } from '../../../core/change/difference.ts'
import type { Plan } from '../../../core/change/plan.ts'
import { serverPlace } from '../../../core/confirm/vantage.ts'
import type { RecordSet } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import type { Base, Present } from '../../../core/publish/base.ts'
import { typeText } from '../../../core/records/types.ts'
import { type BaseNotes, type BaseOf, baseAt, type StoredBase, type Whose } from '../../../workspace/bases.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import type { PublishPart } from '../../documents/publish.ts'
import type { Past } from '../past.ts'
import type { Chosen, SourceOptions } from '../source.ts'
import type { Servers } from './at-servers.ts'

export interface PublishOptions extends SourceOptions {
  to?: string
  only?: string[]
  removeExtra?: boolean
  dryRun?: boolean
  yes?: boolean
  force?: boolean
  overwrite?: boolean
  timeout: string
  json?: boolean
}

export interface Job {
  source: Chosen
  past: Past
  delivery: Delivery
  options: PublishOptions
  /** What was last known to stand on both sides, as it was written; or why that cannot be read. */
  stored?: StoredBase
  damaged?: string
  /** What servers said in this call, for all zones. */
  servers: Servers
  /** Whether a set is among those that are to be published. */
  isWanted(set: { owner: Name; type: number }): boolean
  /** Whether ours is to replace what others made of a set: decided for each. */
  isOurs?(set: { owner: Name; type: number }): boolean
  /** Names that are to be published alone. */
  only?: readonly Name[]
  /** Asked once all is shown. */
  agree(job: Job, outcome: Outcome): Promise<boolean>
}

/** The delivery’s base, for a state that was found there. */
export const baseOf = (job: Job, present: Present): Base | undefined =>
  baseAt(
    job.past.folder,
    job.past.file,
    job.past.entries,
    whoseBase(job.delivery),
    job.stored,
    present,
    job.options.includeAnywhere,
  )

/** Which base is meant. */
export const baseRef = ({ past, delivery }: Pick<Job, 'past' | 'delivery'>): BaseOf => ({
  zone: past.file.zone,
  view: past.file.view,
  delivery: delivery.label,
})

/** By whom its states are known. */
const whoseBase = (delivery: Delivery): Whose => ({
  delivery: delivery.label,
  ...(delivery.by === 'update' ? { endpoint: serverPlace(delivery.server) } : {}),
})

/** What a base is written with: the newest entry of the log is what it was made of. */
export const baseNotes = ({ past }: Job, more: BaseNotes = {}): BaseNotes => ({
  entry: past.entries.at(-1)?.id,
  ...more,
})

/** Trouble where a name that was asked for alone is nowhere. */
export function mustKnow({ only = [], past }: Job, ...all: (Sets | undefined)[]): void {
  const known = new Set(all.flatMap((sets) => [...(sets?.values() ?? [])].map(({ owner }) => foldName(owner))))
  known.add(foldName(past.zone.name))
  const unknown = only.find((name) => !known.has(name))
  if (unknown !== undefined)
    throw new Trouble(
      `--only ${bare(unknown)}: there are no record sets at this name, neither in your zone nor on the server; ${nearest(bare(unknown), [...known].map(bare), 'the names of the zone')}`,
    )
}

/** Why nothing, or not all, was delivered. */
export interface Refusal {
  /** The response code, or the TSIG error; null by file. */
  rcode: string | null
  why: string
  owner?: Name
  type?: number
  expected?: RecordSet
  now?: RecordSet
  /** Seconds by which the server’s clock is ahead. */
  skew?: number
}

/** How a command ended that was run afterwards; a status of null where it took too long. */
export interface AfterRun {
  status: number | null
  said: string
}

export interface Outcome extends Plan {
  /** What the lines of the log of this publishing have in common. */
  run?: string
  /** In words: the server or folder. */
  where: string
  /** Only what is known here was compared, because the server hands no zone over. */
  partial?: boolean
  /** So many record sets were compared; of so many nobody could tell. */
  compared?: number
  unseen?: number
  /** So many that are to be changed were not asked for (--only). */
  pending?: number
  messages: number
  serial: { before?: number; after?: number }
  /** Whether what was read afterwards is what was to be there; undefined where nothing was read. */
  readBack?: boolean
  after?: AfterRun
  refused?: Refusal
  /** By file: the record sets are there, and something else of the text is not. */
  isTextOnly?: boolean
  /** Delivered, and the command afterwards is still to be run, once for all zones of the delivery; `finish` records how that ended. */
  afterwards?: { path: string; finish(after: AfterRun): Promise<void> }
  /** Nobody answered. */
  unreached?: string
  sent: SetPreview[]
  written: boolean
}

const NOTHING: Plan = { changes: [], foreign: [], conflicts: [] }

export const outcomeOf = (where: string, plan = NOTHING, before?: number): Outcome => ({
  ...plan,
  where,
  messages: 0,
  serial: { before },
  sent: [],
  written: false,
})

/** 0: all is there. */
export const statusOf = (
  { unreached, refused, conflicts, changes, isTextOnly, written, readBack, after, unseen }: Outcome,
  dryRun?: boolean,
): number => {
  if (refused || conflicts.length > 0 || readBack === false || (after && after.status !== 0)) return 1
  if (unreached !== undefined || (unseen ?? 0) > 0) return 3
  return (changes.length === 0 && !isTextOnly) || written || dryRun ? 0 : 1
}

export function publishJson({ past, delivery }: Job, outcome: Outcome): PublishPart {
  const { refused, serial, where, sent, changes, written } = outcome
  const about = ({ owner, type }: { owner: Name; type: number }) => ({ owner: foldName(owner), type: typeText(type) })
  return {
    format: 1,
    zone: foldName(past.zone.name),
    ...(past.file.view === undefined ? {} : { view: past.file.view }),
    delivery: delivery.label,
    by: delivery.by,
    ...(delivery.by === 'update' ? { server: where } : { folder: delivery.folder }),
    sent: (written || outcome.messages > 0 ? sent : changes).map((set) => ({
      ...about(set),
      before: setJson(set.before),
      after: setJson(set.after),
    })),
    foreign: outcome.foreign.map((each) => ({ ...about(each), was: setJson(each.was), now: setJson(each.now) })),
    conflicts: outcome.conflicts.map((each) => ({
      ...about(each),
      expected: setJson(each.base),
      now: setJson(each.now),
      intended: setJson(each.intended),
    })),
    messages: outcome.messages,
    compared: outcome.compared ?? null,
    whole: outcome.partial !== true,
    unseen: outcome.unseen ?? 0,
    pending: outcome.pending ?? 0,
    serial: { before: serial.before ?? null, after: serial.after ?? null },
    readBack: outcome.readBack ?? null,
    after: outcome.after ?? null,
    refused: refused
      ? {
          rcode: refused.rcode,
          why: refused.why,
          ...(refused.owner === undefined ? {} : { ...about({ owner: refused.owner, type: refused.type! }) }),
          ...(refused.owner === undefined ? {} : { expected: setJson(refused.expected), now: setJson(refused.now) }),
          ...(refused.skew === undefined ? {} : { skew: Math.round(refused.skew) }),
        }
      : outcome.unreached === undefined
        ? null
        : { rcode: null, why: outcome.unreached },
    written,
  }
}

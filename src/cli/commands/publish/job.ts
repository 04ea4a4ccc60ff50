/** What is published of a zone by a delivery, and what came of it. */
import type { SetPreview } from '../../../core/change/change-set.ts'
import { setJson } from '../../../core/change/change-set.ts'
import type { Plan } from '../../../core/change/plan.ts'
import type { RecordSet } from '../../../core/model/zones.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { typeText } from '../../../core/records/types.ts'
import type { Delivery } from '../../../workspace/config.ts'
import type { PublishPart } from '../../documents/publish.ts'
import type { Past } from '../past.ts'
import type { Chosen, SourceOptions } from '../source.ts'

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
  /** Whether a set is among those that are to be published. */
  isWanted(set: { owner: Name; type: number }): boolean
  /** Asked once all is shown. */
  agree(job: Job, outcome: Outcome): Promise<boolean>
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

export interface Outcome extends Plan {
  /** In words: the server or folder. */
  where: string
  /** Only what is known here was compared, because the server hands no zone over. */
  partial?: boolean
  messages: number
  serial: { before?: number; after?: number }
  /** Whether what was read afterwards is what was to be there; undefined where nothing was read. */
  readBack?: boolean
  after?: { status: number | null; said: string }
  refused?: Refusal
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
  { unreached, refused, conflicts, changes, written, readBack, after }: Outcome,
  dryRun?: boolean,
): number => {
  if (refused || conflicts.length > 0 || readBack === false || (after && after.status !== 0)) return 1
  if (unreached !== undefined) return 3
  return changes.length === 0 || written || dryRun ? 0 : 1
}

export function publishJson({ past, delivery }: Job, outcome: Outcome): PublishPart {
  const { refused, serial, where, sent, changes, written } = outcome
  const about = ({ owner, type }: { owner: Name; type: number }) => ({ owner: foldName(owner), type: typeText(type) })
  return {
    format: 1,
    zone: foldName(past.zone.name),
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

/** Publishing by dynamic update: what others did in the meantime is never undone unseen. */

import type { SetPreview } from '../../../core/change/change-set.ts'
import { differences, type Sets, sameSet, setKey, setsOf, soaOf, withSerial } from '../../../core/change/difference.ts'
import { type Plan, plan } from '../../../core/change/plan.ts'
import { digestOf } from '../../../core/confirm/history.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import { advanceSerial } from '../../../core/file/serial.ts'
import type { Key } from '../../../core/message/key.ts'
import type { RecordSet } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { type UpdateMessage, updateMessages } from '../../../core/publish/messages.ts'
import { inOrder } from '../../../core/publish/order.ts'
import { TYPE, typeText } from '../../../core/records/types.ts'
import { sendUpdate } from '../../../net/update.ts'
import { freshId } from '../../../workspace/backups.ts'
import { appendLog } from '../../../workspace/log.ts'
import { noteDelivered } from '../../../workspace/seen.ts'
import { callText } from '../../call.ts'
import { CLOCK, now, today } from '../../clock.ts'
import { keyIn } from '../key-file.ts'
import { stateBase } from '../past.ts'
import { serverStates, transferOf } from '../servers.ts'
import { limitOf } from '../whom.ts'
import { type Job, type Outcome, outcomeOf, type Refusal } from './job.ts'

/** What a server has. */
interface There {
  sets: Sets
  serial?: number
  soa?: RecordSet
  /** Whether it is all of the zone, and not just what was asked for. */
  whole: boolean
}

export async function publishByUpdate(job: Job): Promise<Outcome> {
  const { delivery, past, options, isWanted } = job
  if (delivery.by !== 'update') throw new Error('another delivery')
  const { server } = delivery
  const key = delivery.key === undefined ? undefined : keyIn(delivery.key)
  const where =
    server.label === delivery.label ? `${server.address}${server.port === 53 ? '' : `:${server.port}`}` : server.label
  const there = await read(job, server, key)
  if (typeof there === 'string') return { ...outcomeOf(where, NOTHING), unreached: there }
  const intended = setsOf(past.zones, past.zone)
  const made = wanted(
    plan(stateBase(past, delivery.label, options.includeAnywhere)?.sets, intended, there.sets, {
      removeExtra: options.removeExtra,
    }),
    isWanted,
  )
  const soa = soaChange(job, there)
  if (soa && isWanted(soa)) made.changes.push(soa)
  const outcome = outcomeOf(where, options.overwrite ? withConflicts(made) : made, there.serial)
  if (outcome.conflicts.length > 0) return outcome
  if (outcome.changes.length === 0) {
    outcome.readBack = true
    await delivered(job, outcome, there)
    return outcome
  }
  if (options.dryRun || !(await job.agree(job, outcome))) return outcome
  const used = new Set([...there.sets.values()].map(({ owner }) => foldName(owner)))
  const messages = updateMessages(
    foldName(past.zone.name),
    inOrder(outcome.changes, past.zone.name),
    (name) => !there.whole || used.has(name),
  )
  for (const message of messages) {
    const stopped = await put(job, server, key, message, outcome)
    if (stopped) break
    outcome.messages++
    const sets = message.steps.flatMap((step) => step.sets)
    outcome.sent.push(...sets)
    await noted(job, where, sets)
  }
  outcome.written = outcome.messages > 0
  const then = outcome.messages > 0 ? await read(job, server, key) : there
  if (typeof then !== 'string') {
    outcome.serial.after = then.serial
    outcome.readBack =
      outcome.messages === messages.length ? outcome.changes.every((set) => isDone(set, then)) : undefined
    if (outcome.readBack) await delivered(job, outcome, then)
  }
  return outcome
}

/** The SOA record, where its timers or names were changed here and not there: with a serial that is later than the one there. */
function soaChange({ past, delivery, options }: Job, { soa, serial }: There): SetPreview | undefined {
  const intended = soaOf(past.zones, past.zone)
  const base = stateBase(past, delivery.label, options.includeAnywhere)?.soa
  if (!intended || !soa || serial === undefined || sameTimers(intended, soa) || !base || !sameTimers(base, soa))
    return undefined
  const after = withSerial(intended, advanceSerial(serial, today()))
  return { owner: past.zone.name, type: TYPE.SOA, before: soa, after }
}

const presentIn = ({ sets, soa }: There, { owner, type }: { owner: Name; type: number }): RecordSet | undefined =>
  type === TYPE.SOA ? soa : sets.get(setKey({ owner, type }))

/** Whether a set is there as it was to become; the serial is the server’s own. */
const isDone = (set: SetPreview, there: There): boolean =>
  set.type === TYPE.SOA ? sameTimers(there.soa, set.after) : sameSet(presentIn(there, set), set.after)

const sameTimers = (a: RecordSet | undefined, b: RecordSet | undefined): boolean =>
  a !== undefined && b !== undefined && sameSet(withSerial(a, 0), withSerial(b, 0))

const NOTHING: Plan = { changes: [], foreign: [], conflicts: [] }

const wanted = ({ changes, foreign, conflicts }: Plan, isWanted: Job['isWanted']): Plan => ({
  changes: changes.filter(isWanted),
  foreign: foreign.filter(isWanted),
  conflicts: conflicts.filter(isWanted),
})

/** What both changed becomes what is intended. */
const withConflicts = ({ changes, foreign, conflicts }: Plan): Plan => ({
  changes: [
    ...changes,
    ...conflicts.map(({ owner, type, now: there, intended }) => ({ owner, type, before: there, after: intended })),
  ],
  foreign,
  conflicts: [],
})

/** What the server has: all of the zone where it hands it over, else what is intended, was, or may be there. In words why not. */
async function read({ source, past, options }: Job, server: Vantage, key: Key | undefined): Promise<There | string> {
  const transfer = await transferOf(server, foldName(past.zone.name), limitOf(options), key)
  if (transfer) return { sets: transfer.sets, serial: transfer.serial, soa: transfer.soa, whole: true }
  const at = [`${server.address.includes(':') ? `[${server.address}]` : server.address}:${server.port}`]
  const chosen = { ...source, chosen: [past.zone], name: undefined }
  const [found] = await serverStates(past.zone.name, chosen, { ...options, at, noTransfer: true })
  const [state] = found!.servers
  if (!state) return `${at[0]} did not answer`
  const sets = new Map(setsOf(past.zones, past.zone))
  for (const { owner, type, before } of state.sets)
    if (before) sets.set(setKey({ owner, type }), { ...before, owner })
    else sets.delete(setKey({ owner, type }))
  return { sets, serial: found!.serial, whole: false }
}

/** Sends a message; after silence, looks whether it was done. Returns whether to stop there, with the reason in the outcome. */
async function put(
  job: Job,
  server: Vantage,
  key: Key | undefined,
  message: UpdateMessage,
  outcome: Outcome,
): Promise<boolean> {
  const limitMs = limitOf(job.options)
  for (let tries = 0; ; tries++) {
    const answer = await sendUpdate(server, message.message, { clock: CLOCK, limitMs, key })
    if ('rcode' in answer && answer.rcode === 'NOERROR') return false
    if ('trouble' in answer) {
      const { error, says, skew } = answer.trouble
      outcome.refused = { rcode: error, why: says, skew }
      return true
    }
    if ('rcode' in answer && !PREREQUISITE.has(answer.rcode)) {
      outcome.refused = {
        rcode: answer.rcode,
        why: `${outcome.where} answered ${answer.rcode}${WHY[answer.rcode] ?? ''}`,
      }
      return true
    }
    // What stands there now says whether it was done, or what came between.
    const then = await read(job, server, key)
    if (typeof then === 'string') {
      outcome.unreached = 'lost' in answer ? answer.lost : then
      return true
    }
    const sets = message.steps.flatMap((step) => step.sets)
    const other = sets.find((set) => !isDone(set, then))
    if (!other) return false
    const changed = sets.find((set) => !sameSet(presentIn(then, set), set.before))
    if ('lost' in answer && !changed && tries === 0) continue
    if ('lost' in answer && !changed) {
      outcome.unreached = answer.lost
      return true
    }
    outcome.refused = between(changed ?? other, then, 'rcode' in answer ? answer.rcode : null)
    return true
  }
}

/** Codes of a prerequisite that is not so (RFC 2136 §2.2). */
const PREREQUISITE = new Set(['YXDOMAIN', 'YXRRSET', 'NXRRSET', 'NXDOMAIN'])
const WHY: Record<string, string> = {
  REFUSED: ': it does not allow updates to this address, or only with a key',
  NOTAUTH: ': it is not a primary server of this zone, or does not accept the key',
  NOTZONE: ': a name is not in its zone',
  NOTIMP: ': it does not take dynamic updates',
  SERVFAIL: ': it failed; its log says why',
  FORMERR: ': it could not read the message',
}

const between = ({ owner, type, before }: SetPreview, there: There, rcode: string | null): Refusal => ({
  rcode,
  why: `somebody else changed ${bare(owner)} ${typeText(type)} in the meantime; nothing of it was overwritten`,
  owner,
  type,
  expected: before,
  now: presentIn(there, { owner, type }),
})

/** What was acknowledged is in the log before anything else is sent. */
async function noted({ past, delivery }: Job, where: string, sets: readonly SetPreview[]): Promise<void> {
  const at = new Date(now() * 1000).toISOString()
  const line = {
    id: freshId(today()),
    at,
    what: 'published',
    by: 'update',
    delivery: delivery.label,
    zone: foldName(past.zone.name),
    ...(past.file.view === undefined ? {} : { view: past.file.view }),
    command: callText(),
    server: where,
    serial: null,
    sets: sets.map(({ owner, type, after }) => [
      foldName(owner),
      typeText(type),
      `${digestOf({ owner, type }, after ?? {})}/${after?.ttl ?? 0}`,
    ]),
  }
  await appendLog(past.folder, () => [line])
}

/** Once all that is intended is there, that is what stood last on both sides; the kept file takes over the serial that the server made. */
async function delivered({ past, delivery, options }: Job, outcome: Outcome, { serial, sets }: There): Promise<void> {
  const missing = differences(sets, setsOf(past.zones, past.zone)).filter(({ after }) => after !== undefined)
  if (options.dryRun || missing.length > 0) return
  const took = await noteDelivered(past.folder, past.file, past.digest, {
    by: 'update',
    delivery: delivery.label,
    serial,
    command: callText(),
    now: today(),
  })
  if (took !== undefined) outcome.serial.after = took
}

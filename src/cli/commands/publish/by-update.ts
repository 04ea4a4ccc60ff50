/** Publishing by dynamic update: what others did in the meantime is never undone unseen. */

import type { SetPreview } from '../../../core/change/change-set.ts'
import { differences, setsOf, soaOf, withSerial } from '../../../core/change/difference.ts'
import { type Plan, plan } from '../../../core/change/plan.ts'
import { endpoint } from '../../../core/confirm/vantage.ts'
import { advanceSerial } from '../../../core/file/serial.ts'
import { foldName } from '../../../core/names/name.ts'
import { TYPE } from '../../../core/records/types.ts'
import { noteDelivered } from '../../../workspace/seen.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import { keyIn } from '../key-file.ts'
import { stateBase } from '../past.ts'
import { type Job, type Outcome, outcomeOf } from './job.ts'
import { isDone, sameTimers, send } from './send.ts'
import { because, read, type There } from './there.ts'

export async function publishByUpdate(job: Job): Promise<Outcome> {
  const { delivery, past, options, isWanted } = job
  if (delivery.by !== 'update') throw new Error('another delivery')
  const { server } = delivery
  const key = delivery.key === undefined ? undefined : keyIn(delivery.key)
  const where = server.label === delivery.label ? endpoint(server) : server.label
  const there = await read(job, server, key)
  if ('unread' in there) return { ...outcomeOf(where), ...because(there) }
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
  outcome.partial = !there.whole
  if (outcome.conflicts.length > 0) return outcome
  if (outcome.changes.length === 0) {
    outcome.readBack = true
    await delivered(job, outcome, there)
    return outcome
  }
  if (options.dryRun || !(await job.agree(job, outcome))) return outcome
  const used = new Set([...there.sets.values()].map(({ owner }) => foldName(owner)))
  await send(job, { server, key }, outcome, (name) => !there.whole || used.has(name))
  outcome.written = outcome.messages > 0
  const then = outcome.messages > 0 ? await read(job, server, key) : there
  if (!('unread' in then)) {
    outcome.serial.after = then.serial
    const isAllSent = outcome.refused === undefined && outcome.unreached === undefined
    outcome.readBack = isAllSent ? outcome.changes.every((set) => isDone(set, then)) : undefined
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

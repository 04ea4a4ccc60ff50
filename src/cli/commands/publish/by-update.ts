/** Publishing by dynamic update: what others did in the meantime is never undone unseen. */
import { randomBytes } from 'node:crypto'
import type { SetPreview } from '../../../core/change/change-set.ts'
import { setKey, setsOf, soaOf, withSerial } from '../../../core/change/difference.ts'
import { changeOf, type Plan, plan } from '../../../core/change/plan.ts'
import { endpoint } from '../../../core/confirm/vantage.ts'
import { advanceSerial } from '../../../core/file/serial.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { advanced, type Base, isThere, type Sent, sameTimers, seenOf, withSent } from '../../../core/publish/base.ts'
import { inOrder } from '../../../core/publish/order.ts'
import { TYPE } from '../../../core/records/types.ts'
import { type Settled, writeBase } from '../../../workspace/bases.ts'
import { recordDelivered } from '../../../workspace/seen.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import { keyIn } from '../key-file.ts'
import { baseNotes, baseOf, baseRef, type Job, mustKnow, type Outcome, outcomeOf } from './job.ts'
import { type Primary, send, waitForIt } from './send.ts'
import { because, presentIn, read, type There } from './there.ts'

export async function publishByUpdate(job: Job): Promise<Outcome> {
  const { delivery, options, servers } = job
  if (delivery.by !== 'update') throw new Error('another delivery')
  const { server } = delivery
  const where = server.label === delivery.label ? endpoint(server) : server.label
  const silence = servers.silenceOf(server)
  if (silence !== undefined) return { ...outcomeOf(where), unreached: silence }
  const settled = await stillSettled(job)
  if (settled) return asIntended(job, where, settled)
  const primary: Primary = { server, key: delivery.key === undefined ? undefined : keyIn(delivery.key) }
  const there = await read(job, server, primary.key)
  if ('unread' in there) {
    if (there.rcode === undefined) servers.isSilent(server, there.unread)
    return { ...outcomeOf(where), ...because(there) }
  }
  const both: BothSides = { base: baseOf(job, there), intended: intendedOf(job) }
  const all = planned(job, both, there)
  mustKnow(job, both.intended.sets, both.base?.sets, there.sets)
  const made = wanted(all, job.isWanted)
  const isOurs = options.overwrite ? () => true : job.isOurs
  const outcome = outcomeOf(where, isOurs ? withConflicts(made, isOurs) : made, there.serial)
  outcome.partial = !there.whole
  outcome.compared = new Set([...there.sets.keys(), ...both.intended.sets.keys()]).size - (there.unseen?.size ?? 0)
  outcome.unseen = [...(there.unseen ?? [])].filter(
    (key) => both.intended.sets.has(key) || both.base?.sets.has(key),
  ).length
  outcome.pending = all.changes.length + all.conflicts.length - made.changes.length - made.conflicts.length
  if (outcome.conflicts.length > 0 || outcome.changes.length === 0) {
    outcome.readBack = outcome.conflicts.length === 0
    await remember(job, outcome, both, there)
    return outcome
  }
  if (options.dryRun || !(await job.agree(job, outcome))) return outcome
  await sendAndReadBack(job, primary, outcome, both, there)
  return outcome
}

interface BothSides {
  base: Base | undefined
  intended: Base
}

const intendedOf = ({ past }: Job): Base => ({
  sets: setsOf(past.zones, past.zone),
  soa: soaOf(past.zones, past.zone),
})

/** The delivery as it was last seen to have all that is intended, where its serial, what is intended, and what was left to do are what they were then. */
async function stillSettled({ stored, past, delivery, options, servers }: Job): Promise<Settled | undefined> {
  const { settled, sent, entry } = stored ?? {}
  if (!settled || sent || settled.digest !== past.digest || options.removeExtra || delivery.by !== 'update')
    return undefined
  // A zone that was brought in anew since is another base.
  if (past.entries.slice(past.entries.findIndex(({ id }) => id === entry) + 1).some(({ what }) => what === 'adopted'))
    return undefined
  const serial = await servers.serialOf(delivery.server, past.zone.name)
  return serial === settled.serial ? settled : undefined
}

function asIntended(job: Job, where: string, { foreign, serial, whole }: Settled): Outcome {
  const { past, stored, isWanted } = job
  const others = new Map(foreign.flatMap((each) => (each.now ? [[setKey(each), each.now]] : [])))
  mustKnow(job, stored!.base.sets, setsOf(past.zones, past.zone), others)
  const outcome = outcomeOf(where, { changes: [], foreign: foreign.filter(isWanted), conflicts: [] }, serial)
  outcome.readBack = true
  outcome.partial = !whole
  outcome.compared = stored!.base.sets.size
  return outcome
}

/** All that is to be done, and what others did; the SOA record, too. */
function planned(job: Job, { base, intended }: BothSides, there: There): Plan {
  const { options, past } = job
  const made = seenOf(
    plan(base?.sets, intended.sets, there.sets, { removeExtra: options.removeExtra, first: base?.first }),
    there.unseen,
  )
  takeSoa(made, past.zone.name, intended, base, there)
  return made
}

/** The SOA record, which has a serial of its own on each side: its timers and names are compared, and sent with a serial that is later than the one there. */
function takeSoa(made: Plan, owner: Name, intended: Base, base: Base | undefined, { soa, serial }: There): void {
  if (!intended.soa || !soa || serial === undefined || sameTimers(intended.soa, soa)) return
  const set = { owner, type: TYPE.SOA }
  const after = withSerial(intended.soa, advanceSerial(serial, today()))
  if (!base?.soa || sameTimers(base.soa, soa)) made.changes.push({ ...set, before: soa, after })
  else if (sameTimers(base.soa, intended.soa)) made.foreign.push({ ...set, was: base.soa, now: soa })
  else made.conflicts.push({ ...set, base: base.soa, now: soa, intended: after })
}

const wanted = ({ changes, foreign, conflicts }: Plan, isWanted: Job['isWanted']): Plan => ({
  changes: changes.filter(isWanted),
  foreign: foreign.filter(isWanted),
  conflicts: conflicts.filter(isWanted),
})

/** What both changed becomes what is intended, where ours is to replace theirs. */
const withConflicts = ({ changes, foreign, conflicts }: Plan, isOurs: NonNullable<Job['isOurs']>): Plan => ({
  changes: [...changes, ...conflicts.filter(isOurs).map(changeOf)],
  foreign,
  conflicts: conflicts.filter((each) => !isOurs(each)),
})

/** Sends the changes; before the first message it is written down what is sent, so that a call that is cut short is no riddle to the next. */
async function sendAndReadBack(
  job: Job,
  primary: Primary,
  outcome: Outcome,
  both: BothSides,
  there: There,
): Promise<void> {
  const zone = foldName(job.past.zone.name)
  const run = randomBytes(6).toString('hex')
  outcome.run = run
  const sent = inOrder(outcome.changes, zone).flatMap(({ sets }) => sets)
  // What was just seen to be the same on both sides is known from here on, whatever comes.
  const seen = advanced(both.base, both.intended, there)
  await saveBase(job, seen, { run, sent })
  const isUsed = usedIn(there)
  await send(job, primary, outcome, outcome.changes, isUsed, run)
  outcome.written = outcome.messages > 0
  let then: Awaited<ReturnType<typeof read>> = there
  if (outcome.messages > 0) {
    then = await waitForIt(job, primary, outcome, there)
    const rest = 'unread' in then ? [] : leftOut(outcome, then, there)
    if (rest.length > 0) {
      await send(job, primary, outcome, rest, usedIn(then as There), run)
      then = await read(job, primary.server, primary.key)
    }
  }
  // Without a look at it, what was sent stays noted as it is: the next call goes by that.
  if ('unread' in then) return
  outcome.serial.after = then.serial
  const isAllSent = outcome.refused === undefined && outcome.unreached === undefined
  const present = then
  outcome.readBack = isAllSent ? outcome.changes.every((set) => isThere(set, present)) : undefined
  await remember(job, outcome, both, then)
}

const NOTHING: Base = { sets: new Map(), first: true }

const usedIn = (there: There): ((name: string) => boolean) => {
  const used = new Set([...there.sets.values()].map(({ owner }) => foldName(owner)))
  return (name) => !there.whole || used.has(name)
}

/**
 * What the server acknowledged and left out, where it did other changes of the same call: some take an alias to a name only once nothing else is at it (knotd, in
 * a zone that it signs). It is sent again, by itself.
 */
function leftOut({ changes, refused, unreached }: Outcome, then: There, before: There): SetPreview[] {
  if (refused || unreached !== undefined) return []
  const rest = changes.filter((set) => !isThere(set, then))
  const isUntouched = (set: SetPreview): boolean => isThere({ ...set, after: presentIn(before, set) }, then)
  return rest.length < changes.length && rest.every(isUntouched)
    ? rest.map((set) => ({ ...set, before: presentIn(then, set) }))
    : []
}

/** Moves the base forward to what both sides are seen to have; where nothing is left to do, that is what was published. The file takes over a serial that the server made. */
async function remember(job: Job, outcome: Outcome, { base, intended }: BothSides, there: There): Promise<void> {
  const { past, options, delivery } = job
  if (options.dryRun) return
  const isIgnored = (set: SetPreview): boolean => isThere({ ...set, after: set.before }, there) && !isThere(set, there)
  const sent = outcome.sent.map((set): Sent & SetPreview => ({ ...set, acknowledged: !isIgnored(set) }))
  const known = sent.length > 0 ? withSent(base ?? NOTHING, sent, there) : base
  const moved = advanced(known, intended, there)
  // A whole publication ends what was the first one.
  const now = { ...moved, first: moved.first && !(job.only === undefined && outcome.readBack === true) }
  const unproved = sent.filter((each) => !isThere(each, there) && !each.acknowledged)
  const left = planned({ ...job, options: { ...options, removeExtra: false } }, { base: now, intended }, there)
  const isSettled =
    left.changes.length === 0 && left.conflicts.length === 0 && !there.unseen?.size && there.serial !== undefined
  if (!isSettled) return saveBase(job, now, unproved.length > 0 ? { sent: unproved } : {})
  const settled = { serial: there.serial!, digest: past.digest, whole: there.whole, foreign: left.foreign }
  const took = await recordDelivered(
    past.folder,
    past.file,
    past.digest,
    {
      by: 'update',
      delivery: delivery.label,
      serial: there.serial,
      run: outcome.run,
      entries: past.entries,
      base: now,
      notes: baseNotes(job, { settled }),
      command: callText(),
      now: today(),
    },
    options.includeAnywhere,
  )
  if (took !== undefined) outcome.serial.after = took
}

const saveBase = (job: Job, base: Base, more: Parameters<typeof baseNotes>[1]): Promise<void> =>
  writeBase(job.past.folder, baseRef(job), base, baseNotes(job, more), { command: callText(), now: today() })

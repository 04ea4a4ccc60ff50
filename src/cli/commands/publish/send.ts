/** Sends messages of dynamic update one after another, and knows after each of them what is in place. */
import type { SetPreview } from '../../../core/change/change-set.ts'
import { sameSet, withSerial } from '../../../core/change/difference.ts'
import { digestOf } from '../../../core/confirm/history.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import type { Key } from '../../../core/message/key.ts'
import type { RecordSet } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { MOST_OCTETS, type UpdateMessage, updateMessages } from '../../../core/publish/messages.ts'
import { inOrder } from '../../../core/publish/order.ts'
import { TYPE, typeText } from '../../../core/records/types.ts'
import { sendUpdate } from '../../../net/update.ts'
import { freshId } from '../../../workspace/backups.ts'
import { appendLog } from '../../../workspace/log.ts'
import { callText } from '../../call.ts'
import { CLOCK, now, today } from '../../clock.ts'
import { limitOf } from '../whom.ts'
import type { Job, Outcome, Refusal } from './job.ts'
import { because, presentIn, read, type There } from './there.ts'

/** The server of a delivery, and the key that it knows. */
export interface Primary {
  server: Vantage
  key?: Key
}

/** Sends the changes of the outcome, and notes there what was sent, and why not all of it. `isUsed` says whether a name has records there. */
export async function send(
  job: Job,
  primary: Primary,
  outcome: Outcome,
  isUsed: (name: Name) => boolean,
): Promise<void> {
  const zone = foldName(job.past.zone.name)
  const left = updateMessages(zone, inOrder(outcome.changes, zone), isUsed)
  const large = left.find(({ octets }) => octets > MOST_OCTETS)
  if (large) {
    const why = `the record sets of ${bare(large.steps[0]!.owner)} do not fit into one update message (65535 octets)`
    outcome.refused = { rcode: null, why }
    return
  }
  for (let message = left.shift(); message; message = left.shift()) {
    const end = await put(job, primary, message, outcome)
    if (end === 'stopped') return
    if (end === 'too-large') {
      left.unshift(...updateMessages(zone, message.steps, isUsed, Math.ceil(message.octets / SMALLER)))
      continue
    }
    outcome.messages++
    const sets = message.steps.flatMap((step) => step.sets)
    outcome.sent.push(...sets)
    await noted(job, outcome.where, sets)
  }
}

/** A message that may be too large for a server is sent in so many parts; one of so many octets is too large for none. */
const SMALLER = 4
const SMALL = 1232

/** Sends a message; after silence, looks whether it was done. Where it stops there, the reason is in the outcome. */
async function put(
  job: Job,
  { server, key }: Primary,
  message: UpdateMessage,
  outcome: Outcome,
): Promise<'done' | 'too-large' | 'stopped'> {
  const canBeSmaller = message.steps.length > 1 && message.octets > SMALL
  for (let tries = 0; ; tries++) {
    const answer = await sendUpdate(server, message.message, { clock: CLOCK, limitMs: limitOf(job.options), key })
    const rcode = 'rcode' in answer ? answer.rcode : null
    if (rcode === 'NOERROR') return 'done'
    if (rcode === 'FORMERR' && canBeSmaller) return 'too-large'
    if ('trouble' in answer) {
      const { error, says, skew } = answer.trouble
      outcome.refused = { rcode: error, why: says, skew }
      return 'stopped'
    }
    if (rcode !== null && !PREREQUISITE.has(rcode)) {
      outcome.refused = { rcode, why: `${outcome.where} answered ${rcode}${WHY[rcode] ?? ''}` }
      return 'stopped'
    }
    // What stands there now says whether it was done, or what came between.
    const then = await read(job, server, key)
    if ('unread' in then) {
      Object.assign(outcome, 'lost' in answer ? { unreached: answer.lost } : because(then))
      return 'stopped'
    }
    const sets = message.steps.flatMap((step) => step.sets)
    const other = sets.find((set) => !isDone(set, then))
    if (!other) return 'done'
    const changed = sets.find((set) => !sameSet(presentIn(then, set), set.before))
    if ('lost' in answer && !changed) {
      if (!answer.unreached && canBeSmaller) return 'too-large'
      if (tries === 0) continue
      outcome.unreached = answer.lost
      return 'stopped'
    }
    outcome.refused = between(changed ?? other, then, rcode)
    return 'stopped'
  }
}

/** Whether a set is there as it was to become; the serial is the server’s own. */
export const isDone = (set: SetPreview, there: There): boolean =>
  set.type === TYPE.SOA ? sameTimers(there.soa, set.after) : sameSet(presentIn(there, set), set.after)

export const sameTimers = (a: RecordSet | undefined, b: RecordSet | undefined): boolean =>
  a !== undefined && b !== undefined && sameSet(withSerial(a, 0), withSerial(b, 0))

/** Codes of a prerequisite that is not so (RFC 2136 §2.2). */
const PREREQUISITE = new Set(['YXDOMAIN', 'YXRRSET', 'NXRRSET', 'NXDOMAIN'])
const WHY: Record<string, string> = {
  REFUSED:
    ': it does not allow updates to this address, or only with a key (some also refuse an MX target that has no address)',
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

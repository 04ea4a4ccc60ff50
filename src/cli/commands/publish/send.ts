/** Sends messages of dynamic update one after another, and knows after each of them what is in place. */
import type { SetPreview } from '../../../core/change/change-set.ts'
import { sameSet, setKey, withSerial } from '../../../core/change/difference.ts'
import { excludes } from '../../../core/change/plan.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import { advanceSerial } from '../../../core/file/serial.ts'
import type { Key } from '../../../core/message/key.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { isThere, sameTimers } from '../../../core/publish/base.ts'
import { MOST_OCTETS, type UpdateMessage, updateMessages } from '../../../core/publish/messages.ts'
import { inOrder, type Step } from '../../../core/publish/order.ts'
import { TYPE, typeText } from '../../../core/records/types.ts'
import { soa } from '../../../core/records/views.ts'
import { sendUpdate } from '../../../net/update.ts'
import { freshId } from '../../../workspace/backups.ts'
import { stateOf } from '../../../workspace/bases.ts'
import { appendLog } from '../../../workspace/log.ts'
import { callText } from '../../call.ts'
import { CLOCK, now, today } from '../../clock.ts'
import { soaAt } from '../servers.ts'
import { limitOf } from '../whom.ts'
import { whileInterruptible } from './interruption.ts'
import type { Job, Outcome, Refusal } from './job.ts'
import { because, presentIn, read, type There, type Unread } from './there.ts'

/** The server of a delivery, and the key that it knows. */
export interface Primary {
  server: Vantage
  key?: Key
}

/** Sends changes, and notes in the outcome what was sent, and why not all of it. `isUsed` says whether a name has records there. */
export async function send(
  job: Job,
  primary: Primary,
  outcome: Outcome,
  changes: readonly SetPreview[],
  isUsed: (name: Name) => boolean,
  run: string,
): Promise<void> {
  const zone = foldName(job.past.zone.name)
  const left = updateMessages(zone, inOrder(changes, zone), isUsed)
  const large = left.find(({ octets }) => octets > MOST_OCTETS)
  if (large) {
    const why = `the record sets of ${bare(large.steps[0]!.owner)} do not fit into one update message (65535 octets)`
    outcome.refused = { rcode: null, why }
    return
  }
  await whileInterruptible(
    () => inPlaceText(outcome),
    async () => {
      for (let message = left.shift(); message; message = left.shift()) {
        const end = await put(job, primary, message, outcome)
        if (end === 'stopped') return
        if (end === 'too-large') {
          left.unshift(...updateMessages(zone, message.steps, isUsed, Math.ceil(message.octets / SMALLER)))
          continue
        }
        outcome.messages++
        const sets = end.steps.flatMap((step) => step.sets)
        outcome.sent.push(...sets)
        await recordSent(job, outcome.where, sets, run)
      }
    },
  )
}

/** What is in place, of what was to be sent. */
export const inPlaceText = ({ sent, changes }: Outcome): string => {
  if (sent.length === 0) return 'Nothing was changed there.'
  const names = [...new Set(sent.map(({ owner, type }) => `${bare(owner)} ${typeText(type)}`))]
  const more = names.length > 6 ? ', …' : ''
  return `${names.length} of ${changes.length} ${changes.length === 1 ? 'record set' : 'record sets'} are in place: ${names.slice(0, 6).join(', ')}${more}. The next call goes on from there.`
}

/** A message that may be too large for a server is sent in so many parts; one of so many octets is too large for none. */
const SMALLER = 4
const SMALL = 1232

/** Sends a message; after silence, or where something is not as it was, looks what stands there. Returns what was done; where it stops, the reason is in the outcome. */
async function put(
  job: Job,
  { server, key }: Primary,
  first: UpdateMessage,
  outcome: Outcome,
): Promise<UpdateMessage | 'too-large' | 'stopped'> {
  let message = first
  const canBeSmaller = message.steps.length > 1 && message.octets > SMALL
  for (let tries = 0; ; tries++) {
    const answer = await sendUpdate(server, message.message, { clock: CLOCK, limitMs: limitOf(job.options), key })
    const rcode = 'rcode' in answer ? answer.rcode : null
    if (rcode === 'NOERROR') return message
    if (rcode === 'FORMERR' && canBeSmaller) return 'too-large'
    if ('trouble' in answer) {
      const { error, says, skew } = answer.trouble
      outcome.refused = { rcode: error, why: says, skew }
      return 'stopped'
    }
    if (rcode !== null && !PREREQUISITE.has(rcode)) {
      outcome.refused = { rcode, why: `${outcome.where} answered ${rcode}${whyOf(rcode, message)}` }
      return 'stopped'
    }
    // What stands there now says whether it was done, or what came between.
    const then = await read(job, server, key)
    if ('unread' in then) {
      Object.assign(outcome, 'lost' in answer ? { unreached: answer.lost } : because(then))
      return 'stopped'
    }
    const sets = wholeChanges(message.steps.flatMap((step) => step.sets))
    if (sets.every((set) => isThere(set, then))) return message
    const changed = sets.find((set) => !isAsBefore(set, then) && !isThere(set, then))
    if ('lost' in answer && !changed) {
      if (!answer.unreached && canBeSmaller) return 'too-large'
      if (tries === 0) continue
      outcome.unreached = answer.lost
      return 'stopped'
    }
    const inTheWay = otherAt(sets, then)
    if (changed || inTheWay) outcome.refused = changed ? between(changed, then, rcode) : besides(inTheWay!, then, rcode)
    else if (tries === 0) {
      // All sets are as they were: what came between is another serial, or other types at a name that had none.
      message = asNow(message, foldName(job.past.zone.name), then)
      continue
    } else outcome.refused = { rcode, why: elsewhere(outcome.where, rcode) }
    return 'stopped'
  }
}

/** Sets that change twice in a message, from how they were to how they end. */
function wholeChanges(sets: readonly SetPreview[]): SetPreview[] {
  const whole = new Map<string, SetPreview>()
  for (const set of sets) whole.set(setKey(set), { ...set, before: (whole.get(setKey(set)) ?? set).before })
  return [...whole.values()]
}

/** Whether a set is there as it was before; of the SOA record, the serial is the server’s own. */
const isAsBefore = (set: SetPreview, there: There): boolean =>
  set.type === TYPE.SOA ? sameTimers(there.soa, set.before) : sameSet(presentIn(there, set), set.before)

/** What others have put at a name by now that excludes what comes there. */
function otherAt(sets: readonly SetPreview[], { sets: present }: There): { owner: Name; type: number } | undefined {
  const gone = new Set(sets.filter(({ after }) => after === undefined).map(setKey))
  return [...present.values()].find((each) => !gone.has(setKey(each)) && sets.some((set) => excludes(set, each)))
}

/** The same message as things are now: with a serial behind that of now, and names that are in use. */
function asNow({ steps }: UpdateMessage, zone: Name, there: There): UpdateMessage {
  const fresh = steps.map(
    ({ owner, sets }): Step => ({
      owner,
      sets: sets.map((set) =>
        set.type === TYPE.SOA && there.soa && there.serial !== undefined && set.after
          ? { ...set, before: there.soa, after: withSerial(set.after, advanceSerial(there.serial, today())) }
          : set,
      ),
    }),
  )
  // It stays one message: what it states now is a little longer.
  return updateMessages(zone, fresh, () => true, Number.POSITIVE_INFINITY)[0]!
}

/** Codes of a prerequisite that is not so (RFC 2136 §2.2). */
const PREREQUISITE = new Set(['YXDOMAIN', 'YXRRSET', 'NXRRSET', 'NXDOMAIN'])
const WHY: Record<string, string> = {
  NOTAUTH: ': it is not a primary server of this zone, or does not accept the key',
  NOTZONE: ': a name is not in its zone',
  NOTIMP: ': it does not take dynamic updates',
  SERVFAIL: ': it failed; its log says why',
  FORMERR: ': it could not read the message',
}

/** What a refusal may mean, by what the message would have changed. */
function whyOf(rcode: string, { steps }: UpdateMessage): string {
  if (rcode !== 'REFUSED') return WHY[rcode] ?? ''
  const sets = steps.flatMap((step) => step.sets)
  const has = (type: number): boolean => sets.some((set) => set.type === type && set.after)
  const removes = sets.some(({ type, after }) => !after && (type === TYPE.A || type === TYPE.AAAA))
  const others = [
    ...(has(TYPE.MX) ? ['an MX target that has no address'] : []),
    ...(has(TYPE.NS) ? ['a name server of the zone that has no address in it'] : []),
    ...(removes ? ['that the last address of a name server or MX target goes'] : []),
  ]
  const data =
    others.length > 0 ? `; or it accepts the key, and refuses the data: some refuse ${others.join(', or ')}` : ''
  return `: it does not allow updates to this address, or only with a key${data}`
}

const between = ({ owner, type, before }: SetPreview, there: There, rcode: string | null): Refusal => ({
  rcode,
  why: `somebody else changed ${bare(owner)} ${typeText(type)} in the meantime; nothing of it was overwritten`,
  owner,
  type,
  expected: before,
  now: presentIn(there, { owner, type }),
})

const besides = (other: { owner: Name; type: number }, there: There, rcode: string | null): Refusal => ({
  rcode,
  why: `somebody else added ${bare(other.owner)} ${typeText(other.type)} in the meantime, and a CNAME record excludes other data at its name; nothing was overwritten`,
  ...other,
  now: presentIn(there, other),
})

const elsewhere = (where: string, rcode: string | null): string =>
  `${where} answered ${rcode}, though it shows every record set as it was before. It seems to forward updates to another server, whose data differ by now: publish to that one, or try again once ${where} has transferred the zone`

/**
 * Reads what is there after the messages. Where the server acknowledged all and has nothing of it yet, it may forward updates to another one: its serial is
 * watched for as long as an answer may take, and it is read again.
 */
export async function waitForIt(
  job: Job,
  { server, key }: Primary,
  outcome: Outcome,
  before: There,
): Promise<There | Unread> {
  const then = await read(job, server, key)
  if ('unread' in then || then.serial !== before.serial || outcome.sent.some((set) => isThere(set, then))) return then
  const limit = CLOCK.elapsed() + limitOf(job.options)
  while (CLOCK.elapsed() < limit) {
    await new Promise<void>((resolve) => void CLOCK.after(LOOK_AGAIN, resolve))
    const found = await soaAt(server, foldName(job.past.zone.name), limitOf(job.options))
    if (found && soa(found.data[0]!).serial !== before.serial) return read(job, server, key)
  }
  return then
}

/** Milliseconds. */
const LOOK_AGAIN = 250

/** What was acknowledged is in the log before anything else is sent. */
async function recordSent(
  { past, delivery }: Job,
  where: string,
  sets: readonly SetPreview[],
  run: string,
): Promise<void> {
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
    run,
    serial: null,
    sets: sets.map(stateOf),
  }
  await appendLog(past.folder, () => [line])
}

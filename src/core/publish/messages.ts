/** Steps as messages of dynamic update (RFC 2136): each changed set is named as it must stand there, so that a change that comes between makes the server refuse. */
import type { SetPreview } from '../change/change-set.ts'
import { without } from '../change/difference.ts'
import { encodeMessage } from '../message/encode.ts'
import { emptyMessage, type Message, type MessageRecord, UPDATE } from '../message/message.ts'
import { foldName, type Name } from '../names/name.ts'
import { CLASS_ANY, CLASS_IN, CLASS_NONE, TYPE } from '../records/types.ts'
import type { Step } from './order.ts'

/** A message over TCP has at most 65 535 octets; room is left for a signature. */
export const MOST_OCTETS = 65_000
const NOTHING = new Uint8Array()

export interface UpdateMessage {
  steps: Step[]
  message: Message
  /** At most, without a signature. */
  octets: number
}

/** The messages for these steps, in their order, as few as there can be. `isUsed` says whether a name has records at the server. */
export function updateMessages(
  zone: Name,
  steps: readonly Step[],
  isUsed: (name: Name) => boolean,
  most = MOST_OCTETS,
): UpdateMessage[] {
  const messages: UpdateMessage[] = []
  for (const step of steps) {
    const updates = updatesOf(step, zone)
    const last = messages.at(-1)
    // What a message itself has done by then is no prerequisite of it (RFC 2136 §3.2): all of those are looked at first.
    const isAgain = last?.steps.some(({ owner }) => owner === step.owner) === true
    let prerequisites = isAgain ? [] : prerequisitesOf(step, isUsed(step.owner))
    if (!last || last.octets + octetsIn(prerequisites, updates) > most) {
      prerequisites = prerequisitesOf(step, isAgain || isUsed(step.owner))
      messages.push({
        octets: 0,
        steps: [],
        message: { ...emptyMessage(0), opcode: UPDATE, questions: [{ name: zone, type: TYPE.SOA, class: CLASS_IN }] },
      })
    }
    const own = messages.at(-1)!
    const { message } = own
    own.steps.push(step)
    message.answers.push(...prerequisites)
    message.authority.push(...updates)
    own.octets += octetsIn(prerequisites, updates)
  }
  return messages
}

const octetsIn = (...records: readonly MessageRecord[][]): number =>
  records.flat().reduce((sum, { owner, data }) => sum + owner.length + 12 + data.length, 0)

/** Its octets, under an id. */
export const updateOctets = (message: Message, id: number): Uint8Array => encodeMessage({ ...message, id })

/** What must be so for the server to take it (RFC 2136 §2.4): each set just as it was seen; a name that had none, not in use. */
function prerequisitesOf({ owner, sets }: Step, isUsed: boolean): MessageRecord[] {
  const none = (type: number): MessageRecord => ({ owner, type, class: CLASS_NONE, ttl: 0, data: NOTHING })
  if (!isUsed) return [none(TYPE.ANY)]
  return sets.flatMap(({ type, before }) =>
    before ? before.data.map((data) => ({ owner, type, class: CLASS_IN, ttl: 0, data })) : [none(type)],
  )
}

/** What is changed (RFC 2136 §2.5): first what goes, then what comes, so that an alias can take the place of data and the other way round. */
function updatesOf({ owner, sets }: Step, zone: Name): MessageRecord[] {
  const isApex = owner === foldName(zone)
  // Servers do not delete the whole NS set of an apex (RFC 2136 §3.4.2.4).
  const byRecord = ({ type }: SetPreview): boolean => isApex && type === TYPE.NS
  const gone = sets.flatMap((set): MessageRecord[] => {
    const { type, before, after } = set
    // Of an SOA record there is always one: what comes takes its place (RFC 2136 §3.4.2.2).
    if (!before || type === TYPE.SOA) return []
    return byRecord(set)
      ? without(before, after).map((data) => ({ owner, type, class: CLASS_NONE, ttl: 0, data }))
      : [{ owner, type, class: CLASS_ANY, ttl: 0, data: NOTHING }]
  })
  const come = sets.flatMap(({ type, after }) =>
    (after?.data ?? []).map((data) => ({ owner, type, class: CLASS_IN, ttl: after!.ttl, data })),
  )
  // Of an apex NS set, the new ones must be there before the others go.
  return sets.some(byRecord) ? [...come, ...gone] : [...gone, ...come]
}

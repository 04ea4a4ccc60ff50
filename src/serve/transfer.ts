/** Handing a whole zone over (AXFR, RFC 5936). */
import type { Garbled } from '../core/message/decode.ts'
import { emptyMessage, type Message, type MessageRecord } from '../core/message/message.ts'
import type { RecordId, Zones } from '../core/model/zones.ts'
import { foldName } from '../core/names/name.ts'
import { NONE } from '../core/names/tree.ts'
import { CLASS_IN } from '../core/records/types.ts'

const AXFR = 252
/** Octets of data in a message, about: one over TCP holds 64 KiB at most. */
const ENOUGH = 16_384

/** Whether a message asks for a transfer. */
export const asksTransfer = (query: Message | Garbled): query is Message =>
  !('garbled' in query) && !query.response && query.questions.length === 1 && query.questions[0]!.type === AXFR

/** The messages that hand over the zone that is asked for: its SOA record, everything else, its SOA record again. Undefined where it is none of these zones’. */
export function transferOf(zones: Zones, query: Message): Message[] | undefined {
  const { name } = query.questions[0]!
  const zone = zones.zones.find((each) => foldName(each.name) === foldName(name))
  if (!zone || zone.soa === NONE) return undefined
  const recordOf = (record: RecordId): MessageRecord => ({
    owner: zones.tree.text(zones.owner(record)),
    type: zones.type(record),
    class: CLASS_IN,
    ttl: zones.ttl(record),
    data: zones.rdata(record),
  })
  const messages: Message[] = []
  let answers: MessageRecord[] = [recordOf(zone.soa)]
  let octets = 0
  const send = (): void => {
    const head = { ...emptyMessage(query.id), response: true, authoritative: true }
    messages.push({ ...head, questions: messages.length === 0 ? query.questions : [], answers })
    answers = []
    octets = 0
  }
  for (const record of zones.recordsIn(zone)) {
    if (record === zone.soa) continue
    const each = recordOf(record)
    answers.push(each)
    octets += each.data.length + each.owner.length + 12
    if (octets > ENOUGH) send()
  }
  answers.push(recordOf(zone.soa))
  send()
  return messages
}

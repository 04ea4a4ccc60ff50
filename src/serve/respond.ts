/** What an authoritative server answers: a function of its zones and one message. */
import { answer, negativeTtl } from '../core/knowledge/answer.ts'
import type { Garbled } from '../core/message/decode.ts'
import { emptyMessage, type Message, type MessageRecord, UDP_SIZE } from '../core/message/message.ts'
import type { RecordSet, Zones } from '../core/model/zones.ts'
import { CLASS_IN, TYPE } from '../core/records/types.ts'

const FORMERR = 1
const NOTIMP = 4
export const REFUSED = 5

/** An authoritative server's response to a message, or undefined for one that is not answered at all (RFC 1035 §4.1.1, RFC 6891 §6.1.3). */
export function respond(zones: Zones, query: Message | Garbled, id: number): Message | undefined {
  if ('garbled' in query) return { ...emptyMessage(id), response: true, rcode: FORMERR }
  if (query.response) return undefined
  const response: Message = {
    ...emptyMessage(query.id),
    response: true,
    opcode: query.opcode,
    questions: query.questions,
    recursionDesired: query.recursionDesired,
  }
  if (query.edns) response.edns = { size: UDP_SIZE, dnssecOk: query.edns.dnssecOk, options: [] }
  if (query.opcode !== 0) return { ...response, rcode: NOTIMP }
  if (query.questions.length !== 1) return { ...response, rcode: FORMERR }
  const { name, type, class: klass } = query.questions[0]!
  if (klass !== CLASS_IN || type === TYPE.ANY || (type >= 249 && type <= 254)) return { ...response, rcode: REFUSED }
  const result = answer(zones, name, type)
  response.rcode = result.rcode
  response.authoritative = result.authoritative
  response.answers = result.answers.flatMap(recordsOf)
  response.authority = result.authority.flatMap((set) =>
    recordsOf(set.type === TYPE.SOA ? { ...set, ttl: negativeTtl(set.ttl, set.data[0]!) } : set),
  )
  response.additional = result.additional.flatMap(recordsOf)
  return response
}

function recordsOf(set: RecordSet): MessageRecord[] {
  return set.data.map((data) => ({ owner: set.owner, type: set.type, class: CLASS_IN, ttl: set.ttl, data }))
}

/** The most octets of a UDP answer to this question. */
export function udpLimit(query: Message | Garbled): number {
  return 'garbled' in query || !query.edns ? 512 : Math.max(512, Math.min(query.edns.size, UDP_SIZE))
}

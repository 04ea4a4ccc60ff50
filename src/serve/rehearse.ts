/** Answers as the world will once the zones are public: from the zones themselves, and for all else by asking somebody. */
import { answer } from '../core/knowledge/answer.ts'
import { emptyMessage, type Message, type MessageRecord, rcodeText } from '../core/message/message.ts'
import type { Zones } from '../core/model/zones.ts'
import { type Name, wireToName } from '../core/names/name.ts'
import { CLASS_IN, TYPE, typeText } from '../core/records/types.ts'
import { RecordView } from '../core/view/record-set.ts'
import { REFUSED, respond } from './respond.ts'
import type { Responder } from './sockets.ts'
import { asksTransfer, transferOf } from './transfer.ts'

/** A question that came, and how it was answered. */
export interface Heard {
  transport: 'udp' | 'tcp'
  name: Name
  type: string
  /** Whose answer it is: from the zones, from whoever is asked for the rest, from both, or nobody’s. */
  by: 'zones' | 'others' | 'both' | 'nobody'
  rcode: string
  /** Data in presentation form, aliases first. */
  answers: string[]
}

export interface Rehearsing {
  /** The zones as they are now. */
  zones(): Zones
  /** Asks for what is in none of them; without it, such questions are refused. */
  others?(name: Name, type: number): Promise<Message | undefined>
  /** Whether zones are handed over to whoever asks. */
  transfers: boolean
  heard(what: Heard): void
}

const SERVFAIL = 2

export function rehearsing({ zones, others, transfers, heard }: Rehearsing): Responder {
  return async (query, id, udp) => {
    const now = zones()
    if (!('garbled' in query) && !udp && asksTransfer(query))
      return transfers ? transferOf(now, query) : { ...emptyMessage(query.id), response: true, rcode: REFUSED }
    const response = respond(now, query, id)
    if (!response || 'garbled' in query || query.questions.length !== 1 || query.opcode !== 0) return response
    const { name, type, class: klass } = query.questions[0]!
    const tell = (by: Heard['by']): Message => {
      const answers = response.answers.map(
        (each) => `${each.type === type ? '' : `${typeText(each.type)} `}${new RecordView(each.type, each.data).value}`,
      )
      heard({
        transport: udp ? 'udp' : 'tcp',
        name,
        type: typeText(type),
        by,
        rcode: rcodeText(response.rcode),
        answers,
      })
      return response
    }
    if (klass !== CLASS_IN) return tell('nobody')
    if (others) response.recursionAvailable = true
    const { kind, steps } = answer(now, name, type)
    // Where it leads out of the zones, what is there is asked of others; as is what is delegated.
    const end = kind === 'alias' ? (steps.at(-1)?.to ?? lastAlias(response.answers)) : name
    if (kind !== 'not-kept' && kind !== 'referral' && (kind !== 'alias' || end === undefined)) return tell('zones')
    if (!others || end === undefined) return tell(kind === 'not-kept' ? 'nobody' : 'zones')
    const theirs = await others(end, type)
    if (!theirs) return { ...tell('nobody'), rcode: SERVFAIL }
    response.rcode = theirs.rcode
    response.authoritative = kind === 'alias'
    response.answers = [...response.answers, ...theirs.answers]
    response.authority = theirs.authority
    response.additional = []
    return tell(kind === 'alias' ? 'both' : 'others')
  }
}

const lastAlias = (answers: readonly MessageRecord[]): Name | undefined => {
  const last = answers.findLast(({ type }) => type === TYPE.CNAME)
  return last && wireToName(last.data)
}

/** A caching resolver in front of a stand-in server: what it was told it repeats, with a falling TTL, until that has run out. Time is handed in. */
import { type Garbled, type Message, type MessageRecord, UDP_SIZE } from '../core/message/message.ts'
import { foldName } from '../core/names/name.ts'
import { TYPE } from '../core/records/types.ts'

interface Kept {
  since: number
  until: number
  message: Message
}

export class StandInResolver {
  private readonly cache = new Map<string, Kept>()
  private readonly upstream: (query: Message | Garbled, id: number) => Message | undefined
  private readonly seconds: () => number

  /** `upstream` answers as an authoritative server does; `seconds` is the clock. */
  constructor(upstream: (query: Message | Garbled, id: number) => Message | undefined, seconds: () => number) {
    this.upstream = upstream
    this.seconds = seconds
  }

  respond(query: Message | Garbled, id: number): Message | undefined {
    if ('garbled' in query || query.questions.length !== 1) return this.upstream(query, id)
    const [{ name, type }] = query.questions
    const key = `${foldName(name)} ${type}`
    const now = this.seconds()
    let kept = this.cache.get(key)
    if (!kept || kept.until <= now) {
      const message = this.upstream(query, id)
      if (!message) return undefined
      const ttls = (message.answers.length > 0 ? message.answers : message.authority.filter((record) => record.type === TYPE.SOA)).map((record) => record.ttl)
      kept = { since: now, until: now + (ttls.length > 0 ? Math.min(...ttls) : 0), message }
      this.cache.set(key, kept)
    }
    const age = Math.floor(now - kept.since)
    const aged = (record: MessageRecord): MessageRecord => ({ ...record, ttl: Math.max(0, record.ttl - age) })
    return {
      ...kept.message,
      id: query.id,
      questions: query.questions,
      authoritative: false,
      recursionAvailable: true,
      recursionDesired: query.recursionDesired,
      answers: kept.message.answers.map(aged),
      authority: kept.message.authority.map(aged),
      additional: [],
      edns: query.edns && { size: UDP_SIZE, dnssecOk: false, options: [] },
    }
  }
}

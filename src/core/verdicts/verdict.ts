/** Intended against observed: the verdict on one answer, and the standing of a set over all vantages. */

import { answer } from '../answer/answer.ts'
import { type Message, rcodeText } from '../message/message.ts'
import { foldName, type Name, nameToWire, wireToName } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { NONE } from '../names/tree.ts'
import { type Rdata, rdataKey, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import type { RecordSet, Seconds, Zone, Zones } from '../zone/zones.ts'

/** One answer of one vantage, whole, or why there is none. */
export interface Observation {
  vantage: string
  message?: Message
  /** Why there is no message: nothing came (and what was tried), or what came could not be read. */
  trouble?: { kind: 'no-reply' | 'garbled'; detail: string }
  transport: 'udp' | 'tcp'
  /** Milliseconds from the first question to the answer, or to giving up. */
  tookMs: number
}

export type Verdict =
  /** The intended data came back, all of it and nothing else. */
  | 'as-intended'
  /** Data of the type came back, other than intended. */
  | 'different'
  /** There is no such name, or nothing of that type at it. */
  | 'absent'
  /** Nothing came, by UDP and by TCP. */
  | 'no-reply'
  /** The vantage declined to answer. */
  | 'refused'
  /** It answered with another failure, or pointed to other servers, or what came could not be read. */
  | 'failed'

export interface Judged {
  vantage: string
  verdict: Verdict
  /** The lowest TTL of the set as it came; null where none came. */
  ttl: Seconds | null
  /** Intended values that did not come, and values that came without being intended, in presentation form. */
  missing: string[]
  extra: string[]
  /** NXDOMAIN, NOERROR…; null where no answer came. */
  rcode: string | null
  ms: number
  /** In words, where the verdict alone does not say it all. */
  detail: string
}

/** A set to ask for: the name to ask is the owner, or for a wildcard a name that it alone answers for. */
export interface Question {
  owner: Name
  type: number
  asked: Name
  intended: RecordSet
}

/** What of a zone can be confirmed by asking, and what cannot, with the reason. `fresh` is a label that cannot exist, for asking wildcards. The zones must be sealed. */
export function questionsFor(zones: Zones, zone: Zone, fresh: string): { questions: Question[]; left: { owner: Name; type: number; why: string }[] } {
  const questions: Question[] = []
  const left: { owner: Name; type: number; why: string }[] = []
  for (let name = 0; name < zones.tree.count; name++) {
    if (zones.first(name) === NONE || !zones.tree.isAtOrBelow(name, zone.apex)) continue
    const types = new Set<number>()
    for (let record = zones.first(name); record !== NONE; record = zones.next(record)) if (zones.zoneOfRecord(record) === zone) types.add(zones.type(record))
    if (types.size === 0) continue
    const owner = zones.tree.text(name)
    const asked = zones.tree.isWildcard(name) ? freshName(owner, fresh) : owner
    for (const type of types) {
      const intended = answer(zones, asked, type)
      const set = intended.answers.find((each) => each.type === type && each.owner === asked)
      if (zones.zoneOf(name) !== zone) left.push({ owner, type, why: `it belongs to the zone ${zones.zoneOf(name)?.name}, whose own file is kept` })
      else if (intended.kind === 'referral') left.push({ owner, type, why: 'it is delegated: the servers of the zone below answer for it' })
      else if (set) questions.push({ owner, type, asked, intended: set })
      else left.push({ owner, type, why: 'a server with this zone does not answer with it: an alias at the same name hides it' })
    }
  }
  return { questions, left }
}

function freshName(wildcard: Name, fresh: string): Name {
  const wire = nameToWire(wildcard) as Uint8Array
  return wireToName(new Uint8Array([fresh.length, ...octetsOf(fresh), ...wire.subarray(2)]))
}

/** Judges one observation. Names are compared without case, records without order, and record data in canonical form (RFC 4034 §6). */
export function judge(question: Question, observation: Observation): Judged {
  const { intended } = question
  const wanted = new Map(intended.data.map((data) => [rdataKey(question.type, data), data]))
  const judged: Judged = {
    vantage: observation.vantage,
    verdict: 'no-reply',
    ttl: null,
    missing: intended.data.map((data) => rdataText(question.type, data)),
    extra: [],
    rcode: null,
    ms: Math.round(observation.tookMs),
    detail: observation.trouble?.detail ?? '',
  }
  const { message } = observation
  if (!message) return { ...judged, verdict: observation.trouble?.kind === 'garbled' ? 'failed' : 'no-reply' }
  judged.rcode = rcodeText(message.rcode)
  if (message.rcode === 5)
    return { ...judged, verdict: 'refused', detail: 'it declined to answer: it does not have the zone, or does not answer to this address' }
  if (message.rcode !== 0 && message.rcode !== 3) return { ...judged, verdict: 'failed', detail: `it answered ${judged.rcode}` }
  const asked = foldName(question.asked)
  const here = message.answers.filter((record) => foldName(record.owner) === asked)
  const got = here.filter((record) => record.type === question.type)
  const alias = here.find((record) => record.type === TYPE.CNAME && question.type !== TYPE.CNAME)
  if (got.length === 0 && !alias) {
    if (message.rcode === 3) return { ...judged, verdict: 'absent', detail: 'no such name' }
    if (refersElsewhere(message))
      return {
        ...judged,
        verdict: 'failed',
        detail: `it points to other servers (${message.authority.map((record) => rdataText(record.type, record.data)).join(', ')}) instead of answering`,
      }
    return { ...judged, verdict: 'absent', detail: `the name is there, but nothing of type ${typeText(question.type)}` }
  }
  const came = new Map<string, Rdata>(got.map((record) => [rdataKey(question.type, record.data), record.data]))
  judged.ttl = Math.min(...(alias ? [alias] : got).map((record) => record.ttl))
  judged.missing = [...wanted].filter(([key]) => !came.has(key)).map(([, data]) => rdataText(question.type, data))
  judged.extra = [...came].filter(([key]) => !wanted.has(key)).map(([, data]) => rdataText(question.type, data))
  if (alias) judged.extra.push(`CNAME ${rdataText(TYPE.CNAME, alias.data)}`)
  judged.verdict = judged.missing.length === 0 && judged.extra.length === 0 ? 'as-intended' : 'different'
  if (alias) judged.detail = 'an alias came where other data is intended'
  return judged
}

const refersElsewhere = (message: Message): boolean =>
  !message.authoritative && message.authority.some((record) => record.type === TYPE.NS) && !message.authority.some((record) => record.type === TYPE.SOA)

export type Standing =
  /** Every vantage gave the intended answer. */
  | 'confirmed'
  /** At least one gave another, or none though it was reached. */
  | 'wrong'
  /** At least one could not be reached; of the others none is wrong. */
  | 'unreachable'

/** A set's verdicts over all vantages taken together. */
export function standingOf(verdicts: readonly Verdict[]): Standing {
  if (verdicts.some((verdict) => verdict !== 'as-intended' && verdict !== 'no-reply')) return 'wrong'
  return verdicts.length > 0 && verdicts.every((verdict) => verdict === 'as-intended') ? 'confirmed' : 'unreachable'
}

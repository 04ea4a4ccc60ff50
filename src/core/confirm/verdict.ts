/** Intended against observed: the verdict on one answer. */

import { negativeTtl } from '../knowledge/answer.ts'
import { stepsIn } from '../knowledge/chain.ts'
import { extendedErrors, type Message, type MessageRecord, POLICY_ERRORS, rcodeText } from '../message/message.ts'
import type { Seconds } from '../model/zones.ts'
import { bare, foldName, isAtOrBelow, type Name, wireToName } from '../names/name.ts'
import { type Rdata, rdataKey, rdataText, sameRdata } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import { frontAt } from '../rules/fronts.ts'
import { digestOf, expiryOf, intendedState, type State } from './history.ts'
import type { Observation, Transport } from './observation.ts'
import type { Question } from './questions.ts'
import { sameness } from './sameness.ts'

export type Verdict =
  /** What was intended came, all of it and nothing else; or nothing, where nothing shall be any more. */
  | 'as-intended'
  /** What an earlier state of the zone said. */
  | 'earlier-answer'
  /** An answer that has expired is served (RFC 8767). */
  | 'stale'
  /** There is no such name, or nothing of that type at it. */
  | 'absent'
  /** Data of the type came, other than intended. */
  | 'different'
  /** An alias stands where other data is intended, or other data where an alias is. */
  | 'aliased'
  /** The vantage declined to answer. */
  | 'refused'
  /** It answered with another failure. */
  | 'failed'
  /** A server of the zone answers without authority. */
  | 'not-authoritative'
  /** Nothing came, by UDP and by TCP. */
  | 'no-reply'
  /** There is no way there from here: nothing was sent. */
  | 'not-tried'
  /** What came could not be read, with EDNS and without. */
  | 'garbled'
  /** Something replied that is no resolver: a page, or an error of HTTP. */
  | 'unusable'

export type Role = 'authoritative' | 'resolver'

export interface Judged {
  vantage: string
  role: Role
  verdict: Verdict
  /** The lowest TTL of the set as it came; of a denial, how long it may be kept; null where none came. */
  ttl: Seconds | null
  /** Intended values that did not come, and values that came without being intended, in presentation form. */
  missing: string[]
  extra: string[]
  /** NXDOMAIN, NOERROR…; null where no answer came. */
  rcode: string | null
  /** Names of the aliases that came, in order. */
  chain: Name[]
  /** Extended errors (RFC 8914). */
  errors: { code: number; text: string }[]
  transport: Transport
  ms: number
  at: number
  /** In words, where the verdict alone does not say it all. */
  detail: string
  /** What is worth knowing of an answer whatever its verdict. */
  notes: string[]
  /** The TTL that an authoritative server has instead of the intended one. */
  otherTtl?: Seconds
  /** Whether the failure is one of validation: the same question is answered with checking disabled. */
  bogus?: boolean
  /** Whether it is denied that the name exists at all. */
  noName?: boolean
  /** What came, where it was not just the intended answer: its digest, and its TTL. */
  state?: Pick<State, 'digest' | 'ttl'>
  /** Signs that the vantage answers the name by itself, instead of with what the zone's servers told it. */
  ownAnswer?: string
  /** The other TTL is that of an earlier state of the set. */
  earlierTtl?: boolean
  /** What came is not what the file says, but what the name has that it follows. */
  ofTarget?: boolean
}

/** What is known beside the answer. */
export interface Known {
  role: Role
  /** What earlier states of the zone answered, newest first. */
  past?: readonly State[]
  /** The zone that the name is in. */
  zone?: Name
  /** The present addresses of the name that the owner follows. */
  followed?: readonly Rdata[]
  /** The name that the owner follows has no address of either family. */
  nowhere?: boolean
  /** An observation of the same question by the same vantage a moment ago. */
  before?: Observation
}

/** EDE codes of an answer that has expired (RFC 8914 §4.4, §4.20). */
const STALE_ERRORS = [3, 19]
/** Expired answers have a TTL of so many seconds (RFC 8767 §4 has 30), or less. */
const STALE_TTL = 30
const NO_ANSWER = { ttl: null, missing: [], extra: [], rcode: null, chain: [], errors: [], notes: [] }

/** The verdict on an answer that is just the intended one, for which nothing else need be known; undefined for every other. */
export function judgeRight(question: Question, observation: Observation, role: Role): Judged | undefined {
  const { vantage, transport, message, at, tookMs } = observation
  if (!message || question.referral || !isPlainlyRight(question, message, role)) return undefined
  const { ttl } = message.answers[0]!
  return { vantage, role, verdict: 'as-intended', ttl, ...PLAIN, transport, ms: Math.round(tookMs), at, notes: [] }
}

/** Judges one observation. Names are compared without case, records without order, and record data in canonical form (RFC 4034 §6). */
export function judge(question: Question, observation: Observation, known: Known): Judged {
  const right = judgeRight(question, observation, known.role)
  if (right) return right
  const { vantage, transport, message, trouble, at } = observation
  const judged: Judged = {
    ...NO_ANSWER,
    vantage,
    role: known.role,
    verdict: 'no-reply',
    transport,
    ms: Math.round(observation.tookMs),
    at,
    detail: '',
    notes: [],
  }
  const values = (question.intended?.data ?? []).map((data) => rdataText(question.type, data))
  if (!message) {
    const kind = trouble?.kind ?? 'no-reply'
    return {
      ...judged,
      verdict: kind,
      missing: values,
      detail: kind === 'not-tried' ? 'not tried from here: there is no route' : (trouble?.detail ?? ''),
    }
  }
  judged.rcode = rcodeText(message.rcode)
  judged.errors = extendedErrors(message)
  const said = errorsText(judged.errors)
  if (question.referral) return { ...judged, ...byReferral(question, message, said) }
  const failing = failureOf(message, known.role, said)
  if (failing) return { ...judged, missing: values, ...failing }
  const all = { ...judged, ...compared(question, message, known, observation) }
  if (all.verdict !== 'as-intended' && said) all.detail = `${all.detail || all.verdict}${said}`
  if (known.role === 'resolver' && all.verdict !== 'as-intended')
    all.ownAnswer = ownAnswer(question, message, known, observation, all)
  return all
}

/** Judges what a server of a zone answered for the zone's own SOA or NS records: whether it has the zone; what it says there is judged elsewhere. */
export function judgeOwn(zone: Name, type: number, observation: Observation): Judged {
  const { vantage, transport, message, trouble, at, tookMs } = observation
  const base: Judged = {
    ...NO_ANSWER,
    vantage,
    role: 'authoritative',
    verdict: 'as-intended',
    transport,
    ms: Math.round(tookMs),
    at,
    detail: '',
    notes: [],
  }
  if (!message) return { ...base, verdict: trouble?.kind ?? 'no-reply', detail: trouble?.detail ?? '' }
  const errors = extendedErrors(message)
  const answered = { ...base, rcode: rcodeText(message.rcode), errors }
  const said = errorsText(errors)
  const failing = failureOf(message, 'authoritative', said)
  if (failing) return { ...answered, ...failing }
  const here = message.answers.filter((each) => each.type === type && foldName(each.owner) === foldName(zone))
  if (message.rcode === 3)
    return { ...answered, verdict: 'absent', detail: `NXDOMAIN: it denies that ${bare(zone)} exists${said}` }
  if (here.length > 0) return { ...answered, ttl: Math.min(...here.map(({ ttl }) => ttl)) }
  const detail = `it has no ${typeText(type)} records for ${bare(zone)}: it does not have it as a zone`
  return { ...answered, verdict: 'absent', detail: `${detail}${said}` }
}

/** Signs that a resolver answers by itself: it says so, its denial is not of this zone or cannot be cached at all, or its TTL stays as it is. */
function ownAnswer(
  question: Question,
  message: Message,
  { zone, before }: Known,
  observation: Observation,
  { verdict, errors, ttl }: Judged,
): string | undefined {
  const policy = errors.filter(({ code }) => POLICY_ERRORS.includes(code))
  if (policy.length > 0) return `it says so:${errorsText(policy)}`
  if (verdict === 'absent') {
    const soa = message.authority.find(({ type }) => type === TYPE.SOA)
    if (!soa) return 'its negative answer has no SOA record, as one from the zone’s servers has (RFC 2308 §2)'
    if (zone && !isAtOrBelow(zone, soa.owner) && !isAtOrBelow(soa.owner, zone))
      return `its negative answer has the SOA record of ${bare(soa.owner) || '.'}`
  }
  return before?.message && isUnfallen(question, before, observation, ttl)
    ? `its TTL stays at ${ttl} s, while that of a cached answer decreases`
    : undefined
}

/** Whether a TTL is the same after a while as it was before; one of zero says nothing. */
function isUnfallen(
  { asked, type }: Question,
  before: Observation,
  { at, message }: Observation,
  ttl: Seconds | null,
): boolean {
  const was = before.message && shownTtl(before.message, foldName(asked), type, 'resolver')
  return ttl !== null && ttl > 0 && at - before.at >= 1.5 && message !== undefined && was === ttl
}

const NONE: never[] = []
const PLAIN = { missing: NONE, extra: NONE, rcode: 'NOERROR', chain: NONE, errors: NONE, detail: '' }

/** Each of so many records is looked for among all of them; more are compared by their keys. */
const FEW = 16

/** The usual case, which is nearly every one of thousands: just the intended records, with a TTL of which nothing is to be said. */
function isPlainlyRight({ asked, type, intended, front, follow }: Question, message: Message, role: Role): boolean {
  const { answers } = message
  if (
    !intended ||
    front ||
    follow ||
    message.rcode !== 0 ||
    answers.length !== intended.data.length ||
    answers.length > FEW ||
    (message.edns?.options.length ?? 0) > 0
  )
    return false
  if (role === 'authoritative' ? !message.authoritative : answers[0]!.ttl > intended.ttl) return false
  const isOne = (each: Message['answers'][number], data: Rdata): boolean =>
    each.type === type &&
    each.ttl === (role === 'authoritative' ? intended.ttl : answers[0]!.ttl) &&
    (each.owner === asked || foldName(each.owner) === foldName(asked)) &&
    sameRdata(type, data, each.data)
  // As many records as are intended, and each of these among them: no two of them are the same.
  return intended.data.every((data) => answers.some((each) => isOne(each, data)))
}

/** What an answer is that says nothing of the data; undefined for one that does. */
function failureOf(message: Message, role: Role, said: string): Pick<Judged, 'verdict' | 'detail'> | undefined {
  const { rcode } = message
  if (rcode === 5)
    return {
      verdict: 'refused',
      detail: `it declined to answer${said || ': it does not have the zone, or does not answer to this address'}`,
    }
  if (rcode !== 0 && rcode !== 3) return { verdict: 'failed', detail: `it answered ${rcodeText(rcode)}${said}` }
  const refers =
    !message.authoritative &&
    message.authority.some(({ type }) => type === TYPE.NS) &&
    !message.authority.some(({ type }) => type === TYPE.SOA)
  const to =
    refers && message.answers.length === 0
      ? message.authority.filter(({ type }) => type === TYPE.NS).map(({ data }) => bare(wireToName(data)))
      : []
  if (role === 'authoritative' && !message.authoritative) {
    if (to.length > 0)
      return { verdict: 'not-authoritative', detail: `it does not have the zone: it points to ${to.join(', ')}` }
    if (message.recursionAvailable)
      return {
        verdict: 'not-authoritative',
        detail:
          'it answers without authority, as a resolver does: either it is one, or something on the path answers instead of it',
      }
    return {
      verdict: 'not-authoritative',
      detail: 'it answers without authority: it does not have the zone (any more), or its copy has expired',
    }
  }
  if (to.length > 0)
    return { verdict: 'failed', detail: `it points to other servers (${to.join(', ')}) instead of answering` }
  return undefined
}

/** What a server says of a zone below (RFC 1034 §4.2.1): the NS records of the cut, and the glue. One that has that zone, too, answers for it. */
function byReferral(question: Question, message: Message, said: string): Compared {
  const { type, asked, intended } = question
  const missing = intended!.data.map((data) => rdataText(type, data))
  if (message.rcode !== 0)
    return message.rcode === 3
      ? { verdict: 'absent', missing, detail: `NXDOMAIN: it does not have this delegation${said}` }
      : { missing, ...failureOf(message, 'resolver', said)! }
  const here = (records: readonly MessageRecord[]): MessageRecord[] =>
    records.filter((each) => each.type === type && foldName(each.owner) === foldName(asked))
  const sections = [message.answers, message.authority, message.additional].map(here)
  const got = sections.find(({ length }) => length > 0) ?? []
  const wanted = new Set(intended!.data.map((data) => sameness(question, data)))
  const came = new Set(got.map(({ data }) => sameness(question, data)))
  const ttl = got.length > 0 ? Math.min(...got.map((each) => each.ttl)) : null
  const rest = {
    ttl,
    missing: missing.filter((_, i) => !came.has(sameness(question, intended!.data[i]!))),
    extra: got.filter(({ data }) => !wanted.has(sameness(question, data))).map(({ data }) => rdataText(type, data)),
  }
  const ofChild = message.authoritative && message.answers.length > 0
  const state = { digest: digestOf(question, { data: got.map(({ data }) => data) }), ttl: ttl ?? 0 }
  if (got.length === 0)
    return {
      ...rest,
      state,
      verdict: 'absent',
      detail:
        type === TYPE.NS
          ? 'it does not have this delegation'
          : message.authority.some((each) => each.type === TYPE.NS)
            ? 'its referral has no such glue'
            : 'it does not have this delegation, or its glue',
    }
  if (rest.missing.length > 0 || rest.extra.length > 0)
    return {
      ...rest,
      state,
      verdict: 'different',
      detail: ofChild ? 'it has the zone below, too, and that says otherwise' : 'its referral says otherwise',
    }
  return {
    ...rest,
    verdict: 'as-intended',
    ...(ofChild || ttl === intended!.ttl ? {} : { otherTtl: ttl! }),
    notes: ofChild ? ['it has the zone below, too, and answers for it'] : [],
  }
}

/** What is in words behind the failure, from the extended errors. */
function errorsText(errors: Judged['errors']): string {
  return errors.length === 0
    ? ''
    : ` (${errors.map(({ code, text }) => [ERROR_TEXT[code] ?? `extended error ${code}`, text].filter(Boolean).join(': ')).join('; ')})`
}

type Compared = Partial<Judged> & Pick<Judged, 'verdict'>

function compared(question: Question, message: Message, known: Known, observation: Observation): Compared {
  const { type, intended } = question
  const asked = foldName(question.asked)
  const here = message.answers.filter((record) => foldName(record.owner) === asked)
  const got = here.filter((record) => record.type === type)
  const alias = type === TYPE.CNAME ? undefined : here.find((record) => record.type === TYPE.CNAME)
  const notes: string[] = []
  const base = {
    ttl: shownTtl(message, asked, type, known.role),
    chain: alias ? [alias.owner, ...stepsIn(message.answers, alias.owner).steps.map(({ to }) => to)] : [],
    missing: (intended?.data ?? []).map((data) => rdataText(type, data)),
    extra: [] as string[],
    notes,
  }
  if (got.length === 0)
    return alias
      ? aliased(question, message, known, base, wireToName(alias.data))
      : denied(question, message, known, base)
  if (message.rcode === 3 && !alias)
    return {
      ...base,
      verdict: 'failed',
      detail: 'it answered NXDOMAIN with records of that very name: resolvers take the name as missing',
    }
  const judged = byData(question, message, known, observation, base, got)
  return question.follow
    ? orOfTarget(
        question,
        known,
        judged,
        got.map(({ data }) => data),
      )
    : judged
}

/** A set that follows a name may have what that name has now, whatever the file says: some hosts look it up by themselves. */
function orOfTarget(question: Question, known: Known, judged: Compared, got: readonly Rdata[]): Compared {
  if (question.intended && judged.verdict === 'as-intended') return judged
  const ofTarget = followedBy(question, known, got)
  if (ofTarget.verdict === 'as-intended') return { ...judged, detail: '', ...ofTarget, ofTarget: true }
  // What stood in the file before, caches may still have; what the file says is compared with the target by itself.
  return question.intended || judged.verdict === 'earlier-answer' || judged.verdict === 'stale'
    ? judged
    : { ...judged, ...ofTarget }
}

/** The TTL of what was answered: of the data, of the alias in their place, of the denial; null where that carries none. */
function shownTtl(message: Message, asked: Name, type: number, role: Role): Seconds | null {
  const here = message.answers.filter((each) => foldName(each.owner) === asked)
  const data = here.filter((each) => each.type === type)
  const shown = data.length > 0 ? data : here.filter((each) => each.type === TYPE.CNAME)
  return shown.length > 0 ? Math.min(...shown.map(({ ttl }) => ttl)) : negativeTtlOf(message, role)
}

type Base = Required<Pick<Judged, 'chain' | 'missing' | 'extra' | 'notes'>> & Pick<Judged, 'ttl'>

/** No data of the type, and no alias. */
function denied(question: Question, message: Message, known: Known, base: Base): Compared {
  const { type, intended } = question
  const noName = message.rcode === 3
  const said = { ...base, noName, state: { digest: 'none', ttl: base.ttl ?? 0 } }
  if (intended || question.follow) {
    const detail = noName ? 'NXDOMAIN' : `NODATA: the name exists, but has no ${typeText(type)} records`
    if (question.follow && !intended && !known.followed?.length) return { ...said, ...followedBy(question, known, []) }
    return { ...said, verdict: isStale(message) ? 'stale' : 'absent', detail }
  }
  // Gone is gone; what else shall be at the name, or below it, is asked for by itself.
  if (noName && question.exists) base.notes.push('NXDOMAIN, although other records or names below are intended there')
  return { ...said, verdict: 'as-intended' }
}

/** An alias, where the asked name has nothing else. */
function aliased(question: Question, message: Message, known: Known, base: Base, target: Name): Compared {
  const { intended } = question
  if (!intended && question.alias) return { ...base, verdict: 'as-intended' }
  if (question.front && frontAt([question.front], { name: target }))
    return {
      ...base,
      missing: [],
      verdict: 'as-intended',
      notes: [`a CNAME to the web front ${question.front.label}`],
    }
  const extra = [`CNAME ${target}`]
  const state = { digest: digestOf(question, { alias: target }), ttl: base.ttl ?? 0 }
  const earlier = known.past?.some(({ digest }) => digest === state.digest)
  const verdict: Verdict = isStale(message) ? 'stale' : earlier ? 'earlier-answer' : 'aliased'
  return {
    ...base,
    extra,
    verdict,
    state,
    detail: `received a CNAME ${intended || question.follow ? 'instead of the intended data' : 'for a removed set'}: ${base.chain.map(bare).join(' → ')}`,
  }
}

/** Data of the type: the intended ones, others, or those of before. */
function byData(
  question: Question,
  message: Message,
  known: Known,
  observation: Observation,
  base: Base,
  got: readonly MessageRecord[],
): Compared {
  const { type, intended } = question
  const { notes } = base
  const wanted = new Map((intended?.data ?? []).map((data) => [sameness(question, data), data]))
  const came = new Map(got.map(({ data }) => [sameness(question, data), data]))
  if (
    question.front &&
    intended &&
    got.every(({ data }) => wanted.has(sameness(question, data)) || frontAt([question.front!], { address: data }))
  )
    return {
      ...base,
      missing: [],
      verdict: 'as-intended',
      notes: [`answered by the web front ${question.front.label}`],
    }
  const missing = [...wanted].filter(([key]) => !came.has(key)).map(([, data]) => rdataText(type, data))
  const extra = [...came].filter(([key]) => !wanted.has(key)).map(([, data]) => rdataText(type, data))
  const rest = { ...base, missing, extra }
  if (missing.length === 0 && extra.length === 0 && intended) {
    if ([...wanted].some(([key, data]) => !sameRdata(type, data, came.get(key)!)))
      notes.push('the same text, split into strings differently')
    return { ...rest, ...byTtl(question, known, rest.ttl!, notes, observation) }
  }
  const state = { digest: digestOf(question, { data: [...came.values()] }), ttl: rest.ttl ?? 0 }
  const told = { ...rest, state }
  const past = known.past?.some(({ digest }) => digest === state.digest)
  if (isStale(message))
    return {
      ...told,
      verdict: 'stale',
      detail: 'it says that this answer has expired and that it cannot get a newer one',
    }
  const unfallen = known.before && isUnfallen(question, known.before, observation, rest.ttl)
  // Without a word about it, an expired answer is told by both: it was right once, and its low TTL does not fall.
  if (past && unfallen && rest.ttl! <= STALE_TTL)
    return {
      ...told,
      verdict: 'stale',
      detail: `its TTL of ${rest.ttl} s does not decrease: it has expired and is still being served`,
    }
  if (past)
    return { ...told, verdict: 'earlier-answer', detail: known.role === 'resolver' ? `gone in ${rest.ttl} s` : '' }
  return { ...told, verdict: 'different', detail: intended ? '' : 'received data for a removed set' }
}

/** The right data: what is to be said of their TTL. */
function byTtl(
  question: Question,
  { role, past, before }: Known,
  ttl: Seconds,
  notes: string[],
  observation: Observation,
): Compared {
  const { message, at } = observation
  const intended = question.intended!
  const { digest } = intendedState(question)
  const earlier = past?.filter((each) => each.digest === digest) ?? []
  if (role === 'authoritative')
    return {
      verdict: 'as-intended',
      ...(ttl === intended.ttl ? {} : { otherTtl: ttl, earlierTtl: earlier.some((each) => each.ttl === ttl) }),
      state: { digest, ttl },
    }
  if (isStale(message!)) notes.push('it says that this answer has expired and that it cannot get a newer one')
  if (ttl <= intended.ttl) return { verdict: 'as-intended' }
  const isOwn = before !== undefined && isUnfallen(question, before, observation, ttl)
  if (!isOwn && earlier.some((each) => each.ttl >= ttl && expiryOf(each, at) > at))
    return {
      verdict: 'earlier-answer',
      state: { digest, ttl },
      detail: `the same data with the earlier, longer TTL; gone in ${ttl} s`,
    }
  notes.push(
    `its TTL of ${ttl} s is above the intended ${intended.ttl} s: an older answer, a floor of this resolver, or one that it gives by itself`,
  )
  return { verdict: 'as-intended' }
}

function followedBy({ type, follow }: Question, { followed, nowhere }: Known, got: readonly Rdata[]): Compared {
  const missing: string[] = []
  if (nowhere) return { verdict: 'different', missing, detail: `${follow}, which it follows, has no address at all` }
  if (!followed)
    return {
      verdict: 'no-reply',
      missing,
      detail: `the current addresses of ${follow} could not be looked up, so there is nothing to compare with`,
    }
  const present = new Set(followed.map((data) => rdataKey(type, data)))
  const extra = got.filter((data) => !present.has(rdataKey(type, data))).map((data) => rdataText(type, data))
  if (extra.length === 0) return { verdict: 'as-intended', missing, notes: [`follows ${follow}`] }
  return {
    verdict: 'different',
    missing: followed.map((data) => rdataText(type, data)),
    extra,
    detail: `not the current addresses of ${follow}, which it follows`,
  }
}

const isStale = (message: Message): boolean => extendedErrors(message).some(({ code }) => STALE_ERRORS.includes(code))

/**
 * How long the negative answer in a message may be cached; null where it carries no SOA record, and may not be kept at all (RFC 2308 §5). Of a cache, the TTL of that record
 * is what is left, whatever minimum the zone has: some keep denials for longer.
 */
function negativeTtlOf({ authority }: Message, role: Role): Seconds | null {
  const soa = authority.find(({ type }) => type === TYPE.SOA)
  if (!soa) return null
  return role === 'resolver' ? soa.ttl : negativeTtl(soa.ttl, soa.data)
}

/** What extended errors mean (RFC 8914 §4, and those that were registered since). */
const ERROR_TEXT: Record<number, string> = {
  0: 'other error',
  1: 'unsupported DNSKEY algorithm',
  2: 'unsupported DS digest type',
  3: 'stale answer',
  4: 'forged answer (by policy)',
  5: 'DNSSEC indeterminate',
  6: 'DNSSEC bogus',
  7: 'signature expired',
  8: 'signature not yet valid',
  9: 'no DNSKEY matches the DS record of the parent zone',
  10: 'RRSIGs missing',
  11: 'no DNSKEY with the zone bit',
  12: 'NSEC missing',
  13: 'cached error',
  14: 'not ready',
  15: 'blocked by its operator',
  16: 'blocked by external order (censored)',
  17: 'filtered as its user requested',
  18: 'prohibited',
  19: 'stale NXDOMAIN answer',
  20: 'not authoritative',
  21: 'not supported',
  22: 'no reachable authority',
  23: 'network error',
  24: 'invalid zone data',
  25: 'signature expired before it became valid',
  26: 'too early',
  27: 'unsupported number of NSEC3 iterations',
  28: 'not able to conform to policy',
  29: 'synthesized',
  30: 'invalid query type',
}

/** Adds a note, once: an answer may be looked at in several rounds. */
export function note({ notes }: Judged, text: string): void {
  if (!notes.includes(text)) notes.push(text)
}

/** Of the answers of one authoritative server that have another TTL than intended: a floor of its host is told from single ones that differ. Changes the judged ones. */
export function judgeTtls(judged: readonly { question: Question; answer: Judged }[]): number | undefined {
  const others = judged.filter(({ answer }) => answer.otherTtl !== undefined)
  const ttls = judged
    .filter(({ question, answer }) => answer.verdict === 'as-intended' && question.intended && !question.front)
    .map(({ answer }) => answer.ttl!)
  const lowest = ttls.reduce((least, ttl) => Math.min(least, ttl), Number.POSITIVE_INFINITY)
  const below = others.filter(({ question, answer }) => answer.otherTtl === lowest && question.intended!.ttl < lowest)
  const floor = below.length >= 3 ? lowest : undefined
  for (const { question, answer } of others) {
    const { ttl } = question.intended!
    if (floor !== undefined && answer.otherTtl === floor && ttl < floor)
      note(answer, `TTL ${floor} instead of ${ttl}: the host enforces a minimum of ${floor}`)
    else {
      answer.verdict = answer.earlierTtl ? 'earlier-answer' : 'different'
      answer.detail = `the data is right; its TTL is ${answer.otherTtl} instead of ${ttl}${answer.earlierTtl ? ', as it was before' : ''}`
    }
  }
  return floor
}

/** A set's verdicts over all vantages taken together: whether to wait or to worry, and until when. */
import { serialAfter } from '../file/serial.ts'
import type { Seconds } from '../model/zones.ts'
import type { Cause } from './causes.ts'
import { expiryOf, letGo, type State, type Wait, waitFor } from './history.ts'
import type { Question } from './questions.ts'
import { timeText } from './time-text.ts'
import type { Judged, Verdict } from './verdict.ts'

export const STATUSES = ['confirmed', 'settling', 'unreachable', 'not-published', 'overdue', 'split', 'wrong'] as const
export type StatusWord =
  /** Every vantage gave the intended answer. */
  | 'confirmed'
  /** Nothing is wrong; some may still have what they were told before. */
  | 'settling'
  /** At least one could not be reached; nothing is known to be wrong. */
  | 'unreachable'
  /** No authoritative server has it. */
  | 'not-published'
  /** It should have been through by now. */
  | 'overdue'
  /** The authoritative servers do not agree, and will not by themselves. */
  | 'split'
  /** At least one gave another answer, or none though it was reached. */
  | 'wrong'

export interface Status {
  word: StatusWord
  /** When it is through, or should have been: seconds since 1970. */
  until?: number
  /** Whether that is the latest time, since it is not known from when on all authoritative servers had it. */
  atMost?: boolean
  /** In words, one line. */
  text: string
}

/** A set as it was confirmed: what was asked, how each answer was judged, and what all of it comes to. */
export interface ConfirmedSet {
  question: Question
  answers: Judged[]
  status: Status
  causes: Cause[]
  /** When all servers were first seen to have it, by what was known before. */
  publishedAt?: number
}

/** How many sets have each status. */
export function statusCounts(sets: readonly { status: Status }[]): Record<StatusWord, number> {
  const counts: Record<StatusWord, number> = {
    confirmed: 0,
    settling: 0,
    unreachable: 0,
    'not-published': 0,
    overdue: 0,
    split: 0,
    wrong: 0,
  }
  for (const { status } of sets) counts[status.word]++
  return counts
}

/** What is known of the set beside its answers. Times are seconds since 1970. */
export interface Facts {
  now: number
  /** When all authoritative servers were first seen to have it so; undefined where nobody saw it before. */
  publishedAt?: number
  /** Earlier states that caches may hold instead, newest first. */
  past: readonly State[]
  /** Since when there can be no others: since then every state of the zone is known. */
  knownSince?: number
  /** The TTL as intended, of the set or of its denial. */
  ttl: Seconds
  /** Until when caches may go on asking the servers of an earlier delegation; and whether that is known, not only the latest time. */
  delegation?: number
  delegationSeen?: boolean
  /** What is known of the servers’ copies of the zone, by vantage. */
  copies: ReadonlyMap<string, Copy>
  /** The serial in the zone's file, where that counts. */
  intendedSerial?: number
  /** Since when a vantage has been giving this verdict without a break, as far as it was seen. */
  since(vantage: string, verdict: Verdict): number | undefined
  /** Until when that was to last, by what was said first. */
  promised(vantage: string, verdict: Verdict): number | undefined
  /** Whether resolvers were not asked, though there are some. */
  resolversLeft?: boolean
  /** Whether nothing shall be there any more. */
  removed?: boolean
  /** It is asked for by a name that no cache has: of the names that caches do have, what they say is not seen. */
  wildcard?: boolean
  /** The server that the others transfer the zone from, where it did not say which version it has. */
  silentPrimary?: string
}

/** A server's copy of the zone. */
export interface Copy {
  serial: number
  /** Whether it is the one that the others transfer the zone from. */
  isPrimary: boolean
  /** For one that is behind: when it has fetched the zone at the latest, and whether it was seen when there first was something to fetch. */
  fetchedBy?: number
  atMost?: boolean
}

/** How long a failure may be kept at most (RFC 9520 §3.2). */
const FAILURE_TTL = 300

/** What a cache may go on saying until it forgets. */
const CACHED = new Set<Verdict>(['earlier-answer', 'absent', 'different', 'aliased'])
const NOT_REACHED: ReadonlySet<Verdict> = new Set<Verdict>(['no-reply', 'not-tried', 'unusable'])

/** The status of a set to which everybody answered as intended, at least one of them; undefined where somebody did not. */
export function statusOfRight(
  answers: readonly Judged[],
  what: Pick<Facts, 'resolversLeft' | 'removed'>,
): Status | undefined {
  if (answers.length === 0 || !answers.every(isRight)) return undefined
  const servers = answers.reduce((sum, { role }) => sum + (role === 'authoritative' ? 1 : 0), 0)
  return { word: 'confirmed', text: confirmedText(servers, answers.length - servers, what) }
}

/** The status of a set; `answers` are those of all vantages, each sample on its own. */
export function statusOf(answers: readonly Judged[], facts: Facts): Status {
  const servers = answers.filter(({ role, verdict }) => role === 'authoritative' && verdict !== 'not-tried')
  const resolvers = answers.filter(({ role, verdict }) => role === 'resolver' && verdict !== 'not-tried')
  const asked = [...servers, ...resolvers]
  if (asked.length === 0) return { word: 'unreachable', text: 'nobody could be asked from here' }
  const right = servers.filter(isRight)
  if (right.length < servers.length) return amongServers(servers, right, facts)
  const problems = resolvers.filter((each) => !isRight(each)).map((each) => ofResolver(each, servers.length > 0, facts))
  const unseen = facts.wildcard && resolvers.length > 0 ? waitFor(facts.past, facts.now, facts.delegation) : undefined
  if (unseen && unseen.left.length > 0) problems.push(ofUnseenNames(unseen, servers.length > 0, facts))
  if (problems.length > 0) return worst(problems)
  return { word: 'confirmed', text: confirmedText(servers.length, resolvers.length, facts) }
}

/** A name that nobody asked for before is answered as it shall be; others may be in caches with what the wildcard said before. */
function ofUnseenNames({ end, seen }: Wait, serversAsked: boolean, facts: Facts): Status {
  const isKnown = seen && facts.delegationSeen !== false
  const until = `until ${timeText(end, facts.now)}${isKnown ? '' : ' at most'}`
  return {
    word: 'settling',
    until: end,
    atMost: !isKnown,
    text: `${serversAsked ? publishedText(facts) : ''}caches may still return the earlier wildcard answer for names that were queried before, ${until}`,
  }
}

/** What is to be said of the servers first, where all of them have it. */
function publishedText({ publishedAt, removed, now }: Facts): string {
  const since = publishedAt === undefined ? '' : ` since ${timeText(publishedAt, now)}`
  return removed
    ? `no authoritative server answers with it any more${since ? `,${since}` : ''}; `
    : `all authoritative servers have it${since}; `
}

/** The status of a zone's own SOA or NS records: whether each of its servers answers for it with authority. */
export function statusOfOwn(answers: readonly Judged[]): Status {
  const servers = answers.filter(({ verdict }) => verdict !== 'not-tried')
  if (servers.length === 0)
    return {
      word: 'unreachable',
      text:
        answers.length > 0
          ? 'no server of the zone could be asked from here'
          : 'no server of the zone is known here, so nobody was asked for it',
    }
  const others = servers.filter((each) => !isRight(each))
  if (others.length > 0)
    return worst(others.map((each) => (NOT_REACHED.has(each.verdict) ? unreached(each) : broken(each))))
  return {
    word: 'confirmed',
    text: `${servers.length === 1 ? 'the authoritative server answers' : `${allOf(servers.length)} answer`} for the zone`,
  }
}

const isRight = ({ verdict }: Judged): boolean => verdict === 'as-intended'

/** The one that matters most; of several that are settling, the one that takes longest. */
export function worst(statuses: readonly Status[]): Status {
  return statuses.reduce((a, b) => {
    const [rankA, rankB] = [STATUSES.indexOf(a.word), STATUSES.indexOf(b.word)]
    return rankB > rankA || (rankB === rankA && (b.until ?? 0) > (a.until ?? 0)) ? b : a
  })
}

/** The authoritative servers do not all have it. */
function amongServers(servers: readonly Judged[], right: readonly Judged[], facts: Facts): Status {
  const others = servers.filter((each) => !isRight(each))
  const reached = others.filter(({ verdict }) => !NOT_REACHED.has(verdict))
  if (right.length > 0)
    return worst(
      others.map((each) =>
        NOT_REACHED.has(each.verdict)
          ? unreached(each)
          : CACHED.has(each.verdict)
            ? behindOrSplit(each, right, facts)
            : broken(each),
      ),
    )
  if (reached.length === 0) return unreached(others[0]!)
  const hold = reached.filter(({ verdict }) => CACHED.has(verdict))
  if (hold.length < reached.length) return broken(reached.find(({ verdict }) => !CACHED.has(verdict))!)
  const isOther = reached.some(
    ({ verdict, vantage }) => (verdict === 'different' || verdict === 'aliased') && !isBehindIntended(vantage, facts),
  )
  if (isOther) return { word: 'wrong', text: otherText(facts) }
  const silent = servers.filter((each) => !reached.includes(each))
  const lack = lackText(servers, reached, facts.removed === true)
  // One that did not reply may have it, unless it would have fetched it from one that did.
  if (silent.length > 0 && !reached.some(({ vantage }) => facts.copies.get(vantage)?.isPrimary))
    return { word: 'unreachable', text: `${lack}: whether it is published is not known` }
  return { word: 'not-published', text: lack }
}

function otherText({ knownSince, now }: Facts): string {
  const never =
    knownSince === undefined ? '' : `, which was not intended at any time since ${timeText(knownSince, now)}`
  return `the authoritative servers have different data${never}`
}

/** "neither of the 2 authoritative servers has it"; of those that did not reply nothing is said but that. */
function lackText(servers: readonly Judged[], reached: readonly Judged[], removed: boolean): string {
  const silent = servers.filter((each) => !reached.includes(each)).map(({ vantage }) => vantage)
  const many = reached.length > 1
  const tail = silent.length > 0 ? `; ${silent.join(', ')} did not reply` : ''
  const names = reached.map(({ vantage }) => vantage).join(' and ')
  if (removed) {
    const who = silent.length > 0 ? names : many ? allOf(reached.length) : 'the authoritative server'
    return `removed, but ${who} still ${many ? 'answer' : 'answers'} with it${tail}`
  }
  if (silent.length > 0) return `${names} ${many ? 'do' : 'does'} not have it${tail}`
  if (!many) return 'the authoritative server does not have it'
  return `${reached.length === 2 ? 'neither authoritative server' : `none of the ${reached.length} authoritative servers`} has it`
}

const allOf = (count: number): string =>
  count === 2 ? 'both authoritative servers' : `all ${count} authoritative servers`

function isBehindIntended(vantage: string, { copies, intendedSerial }: Facts): boolean {
  const serial = copies.get(vantage)?.serial
  return serial !== undefined && intendedSerial !== undefined && serialAfter(intendedSerial, serial)
}

const unreached = ({ vantage, detail, rcode, verdict }: Judged): Status => ({
  word: 'unreachable',
  text:
    verdict === 'unusable'
      ? `${vantage} cannot be used: ${detail}`
      : rcode === null
        ? `${vantage} did not reply (${detail})`
        : `${vantage}: ${detail}`,
})
const broken = ({ vantage, verdict, detail }: Judged): Status => ({
  word: 'wrong',
  text: `${vantage}: ${detail || verdict}`,
})

/** One server has other data than another that is right: by their serials, it is behind, or they are split. */
function behindOrSplit(judged: Judged, right: readonly Judged[], facts: Facts): Status {
  const { vantage } = judged
  const copy = facts.copies.get(vantage)
  const [best] = right.flatMap((each) => {
    const known = facts.copies.get(each.vantage)
    return known ? [{ ...known, vantage: each.vantage }] : []
  })
  const split = (text: string): Status => ({ word: 'split', text })
  if (!copy || !best) {
    const unknown = copy ? right[0]!.vantage : vantage
    return {
      word: 'unreachable',
      text: `${vantage} has different data than ${right[0]!.vantage}; whether it is only behind is not known, since ${unknown} did not tell its serial`,
    }
  }
  const { serial } = copy
  if (serial === best.serial)
    return split(
      `${vantage} has the same serial ${serial} as ${best.vantage} but different data: it will not transfer the zone again`,
    )
  if (!serialAfter(best.serial, serial))
    return split(
      `${vantage} is ahead of ${best.vantage} (serial ${serial}, later than ${best.serial}) and will not transfer an older zone`,
    )
  if (copy.isPrimary)
    return split(
      `${vantage}, the primary server, has serial ${serial}, and ${best.vantage} already ${best.serial}: it has not loaded that version, or went back, and fetches nothing by itself`,
    )
  const until = copy.fetchedBy ?? facts.now
  const text = `${vantage} is behind (serial ${serial}; ${best.vantage} has ${best.serial})`
  if (facts.now > until)
    return {
      word: 'overdue',
      until,
      text: `${text}, and should have transferred the zone by ${timeText(until, facts.now)}: ${facts.silentPrimary === undefined ? 'zone transfers to it do not work' : `${facts.silentPrimary}, the primary server, did not say which version it has`}`,
    }
  return {
    word: 'settling',
    until,
    atMost: copy.atMost,
    text: `${text}; it transfers the zone by ${timeText(until, facts.now)} at the latest`,
  }
}

/** What a resolver's other answer means, where all authoritative servers that were asked are right. */
function ofResolver(judged: Judged, serversAsked: boolean, facts: Facts): Status {
  const { vantage, verdict, bogus } = judged
  const { now } = facts
  if (NOT_REACHED.has(verdict)) return unreached(judged)
  const since = facts.since(vantage, verdict)
  const promised = facts.promised(vantage, verdict)
  if (verdict === 'failed' && !bogus && judged.rcode === 'SERVFAIL') {
    const until = (since ?? now) + FAILURE_TTL
    if (now > until)
      return {
        word: 'wrong',
        until,
        text: `${vantage}: ${judged.detail}, for longer than a failure may be cached`,
      }
    return {
      word: 'settling',
      until,
      atMost: true,
      text: `${vantage}: ${judged.detail}; it may cache that until ${timeText(until, now)}`,
    }
  }
  if (verdict === 'stale') {
    if (since !== undefined && now - since > FAILURE_TTL)
      return {
        word: 'overdue',
        text: `${vantage} still serves an expired answer: it does not reach the zone’s servers`,
      }
    return { word: 'settling', text: `${vantage} serves an expired answer while it fetches a newer one` }
  }
  if (!CACHED.has(verdict)) return broken(judged)
  const causes = facts.past.filter(({ digest }) => digest === judged.state?.digest)
  if (causes.length === 0) return ofUnknownState(judged, promised, serversAsked, facts)
  if (!serversAsked && facts.publishedAt === undefined)
    return {
      word: 'unreachable',
      text: `${vantage} ${saysOf(judged, facts)}; no server of the zone was asked, so it is not known whether this version is published`,
    }
  // A denial that no cache may keep, and a TTL that does not fall, come from the resolver itself.
  if (judged.ttl === null || judged.ownAnswer) return ownAnswer(judged, causes, facts)
  const end = Math.max(...causes.map((each) => expiryOf(each, now, facts.delegation)))
  const seen = causes.every(({ gone }) => gone !== undefined)
  const rest = letGo(judged.at, judged.ttl)
  // Several caches may answer at this address: another one may have any state that is not gone from all caches yet.
  const until = Math.max(rest, end, waitFor(facts.past, now, facts.delegation).end)
  const late = seen && now > end
  if (late && promised !== undefined && now > promised) return overdue(judged, promised, facts)
  const have = serversAsked ? publishedText(facts) : ''
  const longer = late ? ', for longer than its TTL allowed' : ''
  const isKnown = seen && facts.delegationSeen !== false && until <= Math.max(end, rest)
  return {
    word: 'settling',
    until,
    atMost: !isKnown,
    text: `${have}${vantage} ${saysOf(judged, facts)}${longer}, which is gone by ${timeText(until, now)}${isKnown ? '' : ' at most'}`,
  }
}

const overdue = (judged: Judged, until: number, facts: Pick<Facts, 'now' | 'removed'>): Status => ({
  word: 'overdue',
  until,
  text: `${judged.vantage} ${saysOf(judged, facts)}, although the last cache should have expired by ${timeText(until, facts.now)}`,
})

/** An earlier answer that does not come from a cache: overdue once no cache can have it, and until then nothing that waiting is known to mend. */
function ownAnswer(judged: Judged, causes: readonly State[], facts: Facts): Status {
  const until = Math.max(...causes.map((each) => expiryOf(each, facts.now, facts.delegation)))
  return facts.now > until
    ? overdue(judged, until, facts)
    : {
        word: 'wrong',
        text: `${judged.vantage} answers by itself: ${judged.ownAnswer ?? 'its negative answer cannot be cached'}`,
      }
}

/**
 * An answer that no known state of the set was. It may be older than what is known: then it is waited for as long as a cache may have it, and no longer than was said first.
 */
function ofUnknownState(judged: Judged, promised: number | undefined, serversAsked: boolean, facts: Facts): Status {
  const { verdict, ttl, vantage } = judged
  const { now, publishedAt, delegation, knownSince } = facts
  const longest = Math.max(LONGEST, facts.ttl)
  if (!serversAsked || ttl === null || judged.ownAnswer) return broken({ ...judged, detail: judged.detail || verdict })
  // Behind it, the same cache or another one may have any known state.
  const others = waitFor(facts.past, now, delegation).end
  const until = Math.max(letGo(judged.at, ttl), delegation === undefined ? 0 : letGo(delegation, ttl), others)
  // A cache that got it before must have got it with a TTL of all that time.
  if (knownSince !== undefined && until > letGo(knownSince, longest))
    return broken({
      ...judged,
      detail: `${judged.detail || verdict}; this was not the zone’s data at any time since ${timeText(knownSince, now)}`,
    })
  if (promised !== undefined && now > promised) return overdue(judged, promised, facts)
  if (publishedAt !== undefined && until > letGo(publishedAt, longest))
    return overdue(judged, letGo(publishedAt, longest), facts)
  return {
    word: 'settling',
    until,
    atMost: true,
    text: `${publishedText(facts)}${vantage} ${saysOf(judged, facts)}, which may be from before${knownSince === undefined ? '' : ` ${timeText(knownSince, now)}`} and is gone by ${timeText(until, now)} at most`,
  }
}

/** Caches keep nothing for longer than a week, whatever its TTL (RFC 8767 §4). */
export const LONGEST = 604_800

const SAYS: Partial<Record<Verdict, string>> = {
  'earlier-answer': 'still has the earlier answer',
  absent: 'still has the earlier negative answer',
  different: 'has different data',
  aliased: 'has a CNAME',
}
const saysOf = ({ verdict }: Judged, { removed }: Pick<Facts, 'removed'>): string =>
  removed && verdict === 'earlier-answer' ? 'still answers with it' : SAYS[verdict]!

function confirmedText(
  servers: number,
  resolvers: number,
  { resolversLeft, removed }: Pick<Facts, 'resolversLeft' | 'removed'>,
): string {
  const parts = [
    servers > 0 && (servers === 1 ? 'the authoritative server' : `all ${servers} authoritative servers`),
    resolvers > 0 && (resolvers === 1 ? 'the resolver' : `all ${resolvers} resolvers’ answers`),
  ].filter(Boolean)
  return `${removed ? 'gone' : 'as intended'} at ${parts.join(' and ')}${resolversLeft ? '; resolvers were not asked' : ''}`
}

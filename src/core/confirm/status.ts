/** A set's verdicts over all vantages taken together: whether to wait or to worry, and until when. */
import { serialAfter } from '../file/serial.ts'
import type { Cause } from './causes.ts'
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
  /** Whether an earlier state is known that differs, that all known ones are the same, or that none is known. */
  changed: 'yes' | 'no' | 'unknown'
  /** How long caches may hold what was there before. */
  oldTtl: number
  /** How long they may hold the earlier delegation, where that changed, too. */
  delegationTtl: number
  /** Serials of the authoritative servers, by vantage. */
  serials: ReadonlyMap<string, number>
  /** The serial in the zone's file. */
  intendedSerial?: number
  /** How long a server that transfers the zone may take: its refresh and retry times together. */
  transferTime: number
  /** Since when a vantage has been giving this verdict without a break, as far as it was seen. */
  since(vantage: string, verdict: Verdict): number | undefined
  /** Whether resolvers were not asked, though there are some. */
  resolversLeft?: boolean
  /** Whether nothing shall be there any more. */
  removed?: boolean
}

/** How long a failure may be kept at most (RFC 9520 §3.2). */
const FAILURE_TTL = 300

/** What a cache may go on saying until it forgets. */
const CACHED = new Set<Verdict>(['earlier-answer', 'absent', 'different', 'aliased'])
const NOT_REACHED = new Set<Verdict>(['no-reply', 'not-tried'])

/** The status of a set; `answers` are those of all vantages, each sample on its own. */
export function statusOf(answers: readonly Judged[], facts: Facts): Status {
  const servers = answers.filter(({ role, verdict }) => role === 'authoritative' && verdict !== 'not-tried')
  const resolvers = answers.filter(({ role, verdict }) => role === 'resolver' && verdict !== 'not-tried')
  const asked = [...servers, ...resolvers]
  if (asked.length === 0) return { word: 'unreachable', text: 'nobody could be asked from here' }
  const right = servers.filter(isRight)
  if (right.length < servers.length) return amongServers(servers, right, facts)
  const problems = resolvers.filter((each) => !isRight(each)).map((each) => ofResolver(each, servers.length > 0, facts))
  if (problems.length === 0) return { word: 'confirmed', text: confirmedText(servers.length, resolvers.length, facts) }
  return worst(problems)
}

const isRight = ({ verdict }: Judged): boolean => verdict === 'as-intended'

/** The one that matters most; of several that are settling, the one that takes longest. */
function worst(statuses: readonly Status[]): Status {
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
  const old = reached.filter(
    ({ verdict, vantage }) => (verdict !== 'different' && verdict !== 'aliased') || isBehindIntended(vantage, facts),
  )
  const text = facts.removed
    ? `${servers.length === 1 ? 'the authoritative server still has it' : `all ${servers.length} authoritative servers still have it`}: the removal is not published`
    : servers.length === 1
      ? 'the authoritative server does not have it'
      : `none of the ${servers.length} authoritative servers has it`
  if (old.length === reached.length) return { word: 'not-published', text }
  return {
    word: 'wrong',
    text: 'the authoritative servers have different data, which was never intended as far as known here',
  }
}

function isBehindIntended(vantage: string, { serials, intendedSerial }: Facts): boolean {
  const serial = serials.get(vantage)
  return serial !== undefined && intendedSerial !== undefined && serialAfter(intendedSerial, serial)
}

const unreached = ({ vantage, detail }: Judged): Status => ({
  word: 'unreachable',
  text: `${vantage} did not reply (${detail})`,
})
const broken = ({ vantage, verdict, detail }: Judged): Status => ({
  word: 'wrong',
  text: `${vantage}: ${detail || verdict}`,
})

/** One server has other data than another that is right: by their serials, it is behind, or they are split. */
function behindOrSplit(judged: Judged, right: readonly Judged[], facts: Facts): Status {
  const { vantage } = judged
  const serial = facts.serials.get(vantage)
  const best = right
    .map((each) => ({ vantage: each.vantage, serial: facts.serials.get(each.vantage) }))
    .find((each) => each.serial !== undefined)
  if (serial === undefined || best === undefined)
    return {
      word: 'split',
      text: `${vantage} has different data than ${right[0]!.vantage}, and its serial is not known`,
    }
  if (serial === best.serial)
    return {
      word: 'split',
      text: `${vantage} has the same serial ${serial} as ${best.vantage} but different data: it will not transfer the zone again`,
    }
  if (!serialAfter(best.serial!, serial))
    return {
      word: 'split',
      text: `${vantage} is ahead of ${best.vantage} (serial ${serial}, later than ${best.serial}) and will not transfer an older zone`,
    }
  const since = facts.since(vantage, judged.verdict) ?? facts.publishedAt
  const until = (since ?? facts.now) + facts.transferTime
  const text = `${vantage} is behind (serial ${serial}; ${best.vantage} has ${best.serial})`
  if (facts.now > until)
    return {
      word: 'overdue',
      until,
      text: `${text}, and should have transferred the zone by ${timeText(until, facts.now)}: zone transfers to it do not work`,
    }
  return {
    word: 'settling',
    until,
    atMost: since === undefined,
    text: `${text}; it transfers the zone by ${timeText(until, facts.now)} at the latest`,
  }
}

/** What a resolver's other answer means, where all authoritative servers that were asked are right. */
function ofResolver(judged: Judged, serversAsked: boolean, facts: Facts): Status {
  const { vantage, verdict, ttl, bogus } = judged
  const { now, changed } = facts
  if (NOT_REACHED.has(verdict)) return unreached(judged)
  if (verdict === 'failed' && !bogus) {
    const since = facts.since(vantage, verdict)
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
    const since = facts.since(vantage, verdict)
    if (since !== undefined && now - since > FAILURE_TTL)
      return {
        word: 'overdue',
        text: `${vantage} still serves an expired answer: it does not reach the zone’s servers`,
      }
    return { word: 'settling', text: `${vantage} serves an expired answer while it fetches a newer one` }
  }
  if (!CACHED.has(verdict)) return broken(judged)
  // Of what never changed, and of data that was never intended, no cache can have an earlier state.
  const waits = verdict === 'earlier-answer' || changed === 'unknown' || (changed === 'yes' && verdict !== 'different')
  if (!waits || (!serversAsked && verdict !== 'earlier-answer'))
    return broken({ ...judged, detail: judged.detail || `${verdict}, although nothing was changed` })
  const recorded = facts.publishedAt !== undefined && changed === 'yes'
  const longest = changed === 'yes' ? facts.oldTtl + facts.delegationTtl : (ttl ?? 0) + facts.delegationTtl
  const until = (recorded ? facts.publishedAt! : now) + longest
  if (recorded && now > until)
    return {
      word: 'overdue',
      until,
      text: `${vantage} ${SAYS[verdict]}, although the last cache should have expired by ${timeText(until, now)}`,
    }
  const have = serversAsked
    ? recorded
      ? `all authoritative servers have it since ${timeText(facts.publishedAt!, now)}; `
      : 'all authoritative servers have it; '
    : ''
  return {
    word: 'settling',
    until,
    atMost: !recorded,
    text: `${have}${vantage} ${SAYS[verdict]}, which is gone by ${timeText(until, now)}${recorded ? '' : ' at most'}`,
  }
}

const SAYS: Partial<Record<Verdict, string>> = {
  'earlier-answer': 'still has the earlier answer',
  absent: 'still has the earlier negative answer',
  different: 'has different data',
  aliased: 'has a CNAME',
}

function confirmedText(servers: number, resolvers: number, { resolversLeft, removed }: Facts): string {
  const parts = [
    servers > 0 && (servers === 1 ? 'the authoritative server' : `all ${servers} authoritative servers`),
    resolvers > 0 && (resolvers === 1 ? 'the resolver' : `all ${resolvers} resolvers’ answers`),
  ].filter(Boolean)
  return `${removed ? 'gone' : 'as intended'} at ${parts.join(' and ')}${resolversLeft ? '; resolvers were not asked' : ''}`
}

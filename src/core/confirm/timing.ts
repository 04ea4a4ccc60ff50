/** When to lower a TTL before a change, and when a change is through. Times are seconds since 1970. */
import { answer } from '../knowledge/answer.ts'
import type { Seconds, Zone, Zones } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { delegationUntil } from './delegation.ts'
import { historyOf, letGo, matters, type State, type Wait, waitFor } from './history.ts'
import type { Memory } from './memory.ts'
import { type Earlier, longestTtl, type Question, questionsFor } from './questions.ts'
import { intendedState } from './zone-state.ts'

export interface SetTiming {
  owner: Name
  type: number
  /** The TTL as it is intended now; null where there is no such set. */
  ttl: Seconds | null
  /** How long caches may hold what they have now: an answer, or the denial of it. */
  held: Seconds
  /** What to do before a change of it: undefined where the TTL is low already. */
  lower?: { to: Seconds; changeAt: number; throughBy: number }
  /** From when on a change takes no longer than its TTL: where that was lowered, no cache has the old one then. */
  changeAt: number
  /** Without lowering, when a change made now would be through. */
  throughBy: number
  /** The last change of it, where caches may still hold what was before. */
  under?: UnderWay
}

export interface UnderWay {
  /** Since when all servers have it; null where no confirmation saw it yet. */
  publishedAt: number | null
  /** When the last cache lets go; null before all servers have it: then it is `held` from that moment, and `notBefore` at the earliest. */
  until: number | null
  held: Seconds
  /** When the last cache lets go of states that no server has any more; null where there is none. */
  notBefore: number | null
  removed: boolean
}

export interface Timing {
  sets: SetTiming[]
  /** How long a server may take to fetch a change that it was not notified of. */
  transfer: Seconds
}

export interface TimingInput {
  zones: Zones
  zone: Zone
  earlier: readonly Earlier[]
  memory: Memory
  now: number
  /** What to lower a TTL to. */
  to: Seconds
  only?: { owner: Name; type: number }
}

export function timingOf({ zones, zone, earlier, memory, now, to, only }: TimingInput): Timing {
  const intended = intendedState(zones, zone)
  const transfer = intended.soa ? intended.soa.refresh + intended.soa.retry : 0
  const delegation = delegationUntil({ zone, earlier, memory }, intended, memory.nsTtl(zone.name), now)?.until
  const { questions } = questionsFor(zones, zone, 'any', { earlier })
  const isOnly = (question: Question): boolean =>
    !only || (foldName(question.owner) === foldName(only.owner) && question.type === only.type)
  const chosen = questions.filter(isOnly)
  if (only && chosen.length === 0) chosen.push(alone(zones, only))
  const longest = Math.max(intended.nsTtl, memory.nsTtl(zone.name))
  const isNs = (question: Question): boolean =>
    question.type === TYPE.NS && foldName(question.owner) === foldName(zone.name)
  const how = { earlier, memory, now, to, delegation }
  return {
    transfer,
    sets: chosen.map((each) => ofSet(zones, each, isNs(each) ? { ...how, delegatedFor: longest } : how)),
  }
}

/** A question for a set that questionsFor leaves out: the zone's own SOA and NS, or one that is not there. */
function alone(zones: Zones, { owner, type }: { owner: Name; type: number }): Question {
  const found = answer(zones, owner, type)
  return {
    owner,
    type,
    asked: owner,
    intended: found.answers.find((each) => each.type === type && foldName(each.owner) === foldName(owner)),
  }
}

function ofSet(
  zones: Zones,
  question: Question,
  { earlier, memory, now, to, delegation, delegatedFor }: OfSet,
): SetTiming {
  const { owner, type, asked, intended } = question
  const held = Math.max(longestTtl(answer(zones, asked, type)), delegatedFor ?? 0)
  const ttl = intended?.ttl ?? null
  const history = historyOf(question, earlier, memory.sightings(question))
  const states = history.states
    .filter((each) => matters(each, question))
    .map((each) => ({ ...each, held: Math.max(each.held, delegatedFor ?? 0) }))
  const wait = waitFor(states, now, delegatedFor === undefined ? delegation : undefined)
  // Who never heard of the last change may hold what was before it for as long.
  const throughBy = Math.max(letGo(Math.max(now, delegation ?? 0), held), wait.end)
  const isLow = ttl === null || ttl <= to || type === TYPE.SOA
  return {
    owner,
    type,
    ttl,
    held,
    throughBy,
    changeAt: isLow ? (wait.end > letGo(now, held) ? wait.end : now) : throughBy,
    ...(isLow ? {} : { lower: { to, changeAt: throughBy, throughBy: letGo(throughBy, to) } }),
    ...(wait.left.length > 0 ? { under: underWay(wait, history.publishedAt ?? null, now, !intended) } : {}),
  }
}

interface OfSet extends Pick<TimingInput, 'earlier' | 'memory' | 'now' | 'to'> {
  /** Until when caches may go on asking the servers of an earlier delegation. */
  delegation?: number
  /** For the zone's NS set: how long caches keep the delegation, by parent and child. */
  delegatedFor?: Seconds
}

function underWay({ left, end }: Wait, publishedAt: number | null, now: number, removed: boolean): UnderWay {
  const longest = (states: readonly State[]): Seconds => states.reduce((most, { held }) => Math.max(most, held), 0)
  if (publishedAt !== null) return { publishedAt, until: end, held: longest(left), notBefore: null, removed }
  const gone = left.filter((each) => each.gone !== undefined)
  return {
    publishedAt,
    until: null,
    held: longest(left.filter((each) => each.gone === undefined)),
    notBefore: gone.length === 0 ? null : waitFor(gone, now).end,
    removed,
  }
}

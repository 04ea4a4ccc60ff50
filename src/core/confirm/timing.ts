/** When to lower a TTL before a change, and when a change is through. Times are seconds since 1970. */
import { answer } from '../knowledge/answer.ts'
import type { Seconds, Zone, Zones } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { delegationUntil } from './delegation.ts'
import { expiryOf, historyOf, matters } from './history.ts'
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
  /** Without lowering, when a change made now would be through. */
  throughBy: number
  /** The last change of it, where caches may still hold what was before: since when all servers have it, and when the last cache lets go; null where no confirmation saw it yet. */
  under?: { publishedAt: number | null; until: number | null; held: Seconds; removed: boolean }
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
  const delegation = delegationUntil({ zone, earlier, memory }, intended, memory.nsTtl(zone.name), now)
  const { questions } = questionsFor(zones, zone, 'any', { earlier })
  const isOnly = (question: Question): boolean =>
    !only || (foldName(question.owner) === foldName(only.owner) && question.type === only.type)
  const chosen = questions.filter(isOnly)
  if (only && chosen.length === 0) chosen.push(alone(zones, only))
  return { transfer, sets: chosen.map((question) => ofSet(zones, question, { earlier, memory, now, to, delegation })) }
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
  {
    earlier,
    memory,
    now,
    to,
    delegation,
  }: Pick<TimingInput, 'earlier' | 'memory' | 'now' | 'to'> & { delegation?: number },
): SetTiming {
  const { owner, type, asked, intended } = question
  const held = longestTtl(answer(zones, asked, type))
  const ttl = intended?.ttl ?? null
  const history = historyOf(question, earlier, memory.sightings(question))
  const states = history.states.filter((each) => matters(each, question))
  const timing: SetTiming = { owner, type, ttl, held, throughBy: Math.max(now, delegation ?? 0) + held }
  const publishedAt = history.publishedAt ?? null
  const left = states.filter(
    (each) => expiryOf(each, now, delegation) > now && (publishedAt !== null || each.gone === undefined),
  )
  if (left.length > 0) {
    const end = Math.max(...left.map((each) => expiryOf(each, now, delegation)))
    const longest = Math.max(...left.map((each) => each.held))
    timing.under = { publishedAt, until: publishedAt === null ? null : end, held: longest, removed: !intended }
    // Who never heard of the last change may hold what was before it for as long.
    timing.throughBy = Math.max(timing.throughBy, end)
  }
  if (ttl !== null && ttl > to && type !== TYPE.SOA)
    timing.lower = { to, changeAt: timing.throughBy, throughBy: timing.throughBy + to }
  return timing
}

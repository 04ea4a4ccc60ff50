/** How long caches may go on asking the servers of an earlier delegation. */
import type { Seconds, Zone } from '../model/zones.ts'
import { expiryOf, historyOf, matters, type Seen } from './history.ts'
import type { Earlier } from './questions.ts'
import { nsQuestion, type ZoneState } from './zone-state.ts'

/** Until when, by the longest NS TTL of parent and child, and whether all servers were seen to have another NS set since; undefined where it was no other before. */
export function delegationUntil(
  { zone, earlier, memory }: { zone: Zone; earlier: readonly Earlier[]; memory: Seen },
  intended: ZoneState['intended'],
  longest: Seconds,
  now: number,
): { until: number; seen: boolean } | undefined {
  const question = nsQuestion(zone, intended)
  const states = historyOf(question, earlier, memory.sightings(question)).states
  const others = states
    .filter((each) => each.digest !== 'none' && matters(each, question))
    .map((each) => ({ ...each, held: Math.max(each.held, longest, intended.nsTtl) }))
  if (others.length === 0) return undefined
  return {
    until: Math.max(...others.map((each) => expiryOf(each, now))),
    seen: others.every(({ gone }) => gone !== undefined),
  }
}

/** The longest that caches keep the delegation, by parent and child as they were asked. */
export const longestNsTtl = ({ intended, servers, parents }: ZoneState): Seconds =>
  Math.max(intended.nsTtl, ...servers.map(({ nsTtl }) => nsTtl ?? 0), ...parents.map(({ nsTtl }) => nsTtl))

/** Whether servers and parent zone all have the NS set as it is intended. */
export function delegationIsThrough({ intended, servers, parents }: ZoneState): boolean {
  const isIntended = (ns: readonly string[] | undefined): boolean => ns?.join() === intended.ns.join()
  return servers.length > 0 && parents.length > 0 && [...servers, ...parents].every(({ ns }) => isIntended(ns))
}

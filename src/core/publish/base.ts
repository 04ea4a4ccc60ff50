/**
 * The base of a delivery: what it and the workspace last both had of a zone, set by set. It is moved forward only by what was read there, or acknowledged;
 * what neither is known of stays as it was.
 */
import type { SetPreview } from '../change/change-set.ts'
import { type Sets, sameSet, setKey, withSerial } from '../change/difference.ts'
import type { Plan } from '../change/plan.ts'
import type { RecordSet } from '../model/zones.ts'
import { TYPE } from '../records/types.ts'

/** What is known of both sides. */
export interface Base {
  sets: Sets
  /** Its serial says nothing: the server makes its own. */
  soa?: RecordSet
  /** The first publication is not through yet: of sets that are not in it, nothing is known. */
  first?: boolean
}

/** What is at a delivery, as far as it could be seen. */
export interface Present {
  sets: Sets
  soa?: RecordSet
  /** Sets that nobody could tell of, by `setKey`. */
  unseen?: ReadonlySet<string>
}

/** A set that was sent, as it was to become; `acknowledged` where the server said so. */
export interface Sent extends Pick<SetPreview, 'owner' | 'type' | 'after'> {
  acknowledged?: boolean
}

/** Whether two SOA records say the same, but for their serials. */
export const sameTimers = (a: RecordSet | undefined, b: RecordSet | undefined): boolean =>
  a !== undefined && b !== undefined && sameSet(withSerial(a, 0), withSerial(b, 0))

/**
 * The base once what was sent, and never read back, is looked at: what is there just as it was sent is ours, and what was acknowledged was there, whatever came
 * after it. What was not acknowledged and is not there was not done.
 */
export function withSent({ sets, soa, first }: Base, sent: readonly Sent[], present: Present): Base {
  const base = new Map(sets)
  let timers = soa
  const take = ({ owner, type, after }: Sent): void => {
    if (type === TYPE.SOA) timers = after ?? timers
    else if (after) base.set(setKey({ owner, type }), after)
    else base.delete(setKey({ owner, type }))
  }
  for (const each of sent) {
    if (each.acknowledged) take(each)
  }
  for (const each of sent) if (isThere(each, present)) take(each)
  return { sets: base, soa: timers, first }
}

/** Whether a set is there as it was to become. */
export const isThere = (
  { owner, type, after }: Pick<SetPreview, 'owner' | 'type' | 'after'>,
  present: Present,
): boolean =>
  type === TYPE.SOA ? sameTimers(present.soa, after) : sameSet(present.sets.get(setKey({ owner, type })), after)

/** The base after a look at both sides: where both have the same, that; elsewhere what it was. */
export function advanced(base: Base | undefined, intended: Base, present: Present): Base {
  const sets = new Map(base?.sets)
  for (const key of new Set([...sets.keys(), ...intended.sets.keys()])) {
    const wanted = intended.sets.get(key)
    if (present.unseen?.has(key) || !sameSet(wanted, present.sets.get(key))) continue
    if (wanted) sets.set(key, wanted)
    else sets.delete(key)
  }
  const isSame = sameTimers(intended.soa, present.soa)
  return { sets, soa: isSame ? intended.soa : base?.soa, first: base ? base.first : true }
}

/**
 * A state that was brought in from elsewhere, as a base: it is one where the delivery has anything of it. A server that has none of its record sets never had
 * this zone, so that what is missing there was not removed by anybody.
 */
export const broughtIn = (base: Base, present: Present, apexNs: string): Base | undefined =>
  [...base.sets].some(([key, set]) => key !== apexNs && sameSet(set, present.sets.get(key))) ? base : undefined

/** A plan without the sets that nobody could tell of. */
export function seenOf({ changes, foreign, conflicts }: Plan, unseen: ReadonlySet<string> | undefined): Plan {
  if (!unseen || unseen.size === 0) return { changes, foreign, conflicts }
  const isSeen = (each: { owner: string; type: number }): boolean => !unseen.has(setKey(each))
  return { changes: changes.filter(isSeen), foreign: foreign.filter(isSeen), conflicts: conflicts.filter(isSeen) }
}

/**
 * In which order sets are changed at a server, so that nothing is down in between: what changes at one owner goes together; a target comes before what points
 * at it, and goes after it; new name servers of the zone come before the old ones go.
 */
import type { SetPreview } from '../change/change-set.ts'
import { sameSet, without } from '../change/difference.ts'
import type { RecordSet } from '../model/zones.ts'
import { foldName, labelsOf, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { RecordView } from '../view/record-set.ts'

/** What changes at one owner, in one message. */
export interface Step {
  owner: Name
  sets: SetPreview[]
}

/** The steps of a change of a zone, in order. What points at one another in a circle is in any order. */
export function inOrder(changes: readonly SetPreview[], apex: Name): Step[] {
  const steps = new Map<Name, Step>()
  let last: Step | undefined
  const add = (set: SetPreview): void => {
    const owner = foldName(set.owner)
    const step = steps.get(owner)
    if (step) step.sets.push(set)
    else steps.set(owner, { owner, sets: [set] })
  }
  for (const set of changes) {
    if (set.type !== TYPE.NS || foldName(set.owner) !== foldName(apex) || !set.before || !set.after) add(set)
    else {
      const both = joined(set.before, set.after)
      if (!sameSet(set.before, both)) add({ ...set, after: both })
      if (!sameSet(both, set.after)) last = { owner: foldName(apex), sets: [{ ...set, before: both }] }
    }
  }
  return sorted(steps, last)
}

/** The name servers of before and those of afterwards. */
const joined = (before: RecordSet, after: RecordSet): RecordSet => ({
  ...after,
  data: [...after.data, ...without(before, after)],
})

/** Whether a host has fewer addresses afterwards. */
const losesAddress = ({ sets }: Step): boolean =>
  sets.some(
    ({ type, before, after }) =>
      (type === TYPE.A || type === TYPE.AAAA) && before !== undefined && without(before, after).length > 0,
  )

const adds = ({ sets }: Step): boolean => sets.some(({ after }) => after !== undefined)
const depth = ({ owner }: Step): number => labelsOf(owner).length

/** Names that the sets point to on one side. */
const targetsOf = ({ sets }: Step, side: 'before' | 'after'): Name[] =>
  sets.flatMap(({ type, [side]: set }) =>
    (set?.data ?? []).flatMap((data) => {
      const { target } = new RecordView(type, data)
      return target === undefined ? [] : [foldName(target)]
    }),
  )

/** `last`: the former name servers of the zone go. By then the new ones have their addresses; only then the addresses of the former ones go. */
function sorted(steps: ReadonlyMap<Name, Step>, last: Step | undefined): Step[] {
  const all = [...steps.values(), ...(last ? [last] : [])]
  /** What must be done before each. */
  const first = new Map<Step, Step[]>(all.map((step) => [step, []]))
  if (last) {
    const joining = steps.get(last.owner)
    if (joining) first.get(last)!.push(joining)
    for (const name of targetsOf(last, 'before')) {
      const target = steps.get(name)
      if (target && target !== joining && losesAddress(target)) first.get(target)!.push(last)
    }
  }
  for (const step of all) {
    for (const name of targetsOf(step, 'after')) {
      const target = steps.get(name)
      if (target && target !== step && adds(target)) first.get(step)!.push(target)
    }
    for (const name of targetsOf(step, 'before')) {
      const target = steps.get(name)
      if (target && target !== step && !adds(target)) first.get(target)!.push(step)
    }
  }
  // What comes, from below upwards; then what only goes, from above downwards.
  const wished = all.sort(
    (a, b) =>
      Number(adds(b)) - Number(adds(a)) ||
      Number(a === last) - Number(b === last) ||
      (adds(a) ? depth(b) - depth(a) : depth(a) - depth(b)),
  )
  const done = new Set<Step>()
  const begun = new Set<Step>()
  const order: Step[] = []
  for (const step of wished) {
    const stack = [step]
    while (stack.length > 0) {
      const top = stack.at(-1)!
      const next = begun.has(top) ? undefined : first.get(top)!.filter((each) => !begun.has(each))
      begun.add(top)
      if (next && next.length > 0) {
        stack.push(...next.reverse())
        continue
      }
      stack.pop()
      if (!done.has(top)) order.push(top)
      done.add(top)
    }
  }
  return order
}

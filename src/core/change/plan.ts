/**
 * What has to be sent so that what is there becomes what is intended, without undoing what others did: by what both sides stood at last.
 * A set that only others changed stays; one that both changed is a conflict, which people decide.
 */
import type { RecordSet } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { BESIDE_ALIAS, TYPE } from '../records/types.ts'
import type { SetPreview } from './change-set.ts'
import { type Sets, sameSet } from './difference.ts'

export interface Plan {
  /** Each set as it is there now, and as it is to be. */
  changes: SetPreview[]
  /** What others changed since, and what stays. */
  foreign: { owner: Name; type: number; was?: RecordSet; now?: RecordSet }[]
  conflicts: { owner: Name; type: number; base?: RecordSet; now?: RecordSet; intended?: RecordSet }[]
}

/**
 * `base`: what stood last on both sides; undefined where that is not known: then sets that differ are changed, and nothing that is extra goes, unless `removeExtra`.
 * With `first`, the same holds for each set that is not in the base.
 * Names that were never in the base survive; but an alias and other data at one name exclude each other (RFC 1034 §3.6.2), so what others have there is a conflict. The result is in the order of the intended sets, then of the present ones.
 */
export function plan(
  base: Sets | undefined,
  intended: Sets,
  now: Sets,
  { removeExtra = false, first = false } = {},
): Plan {
  const made: Plan = { changes: [], foreign: [], conflicts: [] }
  for (const key of new Set([...intended.keys(), ...now.keys()])) {
    const [was, wanted, there] = [base?.get(key), intended.get(key), now.get(key)]
    if (sameSet(wanted, there)) continue
    const { owner, type } = (wanted ?? there)!
    if (!base || (first && !was)) {
      if (wanted || removeExtra) made.changes.push({ owner, type, before: there, after: wanted })
      else made.foreign.push({ owner, type, now: there })
    } else if (sameSet(was, there)) made.changes.push({ owner, type, before: there, after: wanted })
    else if (sameSet(was, wanted)) {
      if (removeExtra && !was && !wanted) made.changes.push({ owner, type, before: there, after: undefined })
      else made.foreign.push({ owner, type, was, now: there })
    } else made.conflicts.push({ owner, type, base: was, now: there, intended: wanted })
  }
  const comes = new Map<Name, SetPreview[]>()
  for (const change of [...made.changes, ...made.conflicts.map(changeOf)])
    comes.set(foldName(change.owner), [...(comes.get(foldName(change.owner)) ?? []), change])
  const isInTheWay = (each: Plan['foreign'][number]): boolean =>
    each.now !== undefined && comes.get(foldName(each.owner))?.some((change) => excludes(change, each)) === true
  const inTheWay = made.foreign.filter(isInTheWay).map(({ was, ...each }) => ({ ...each, base: was }))
  return {
    changes: made.changes,
    foreign: made.foreign.filter((each) => !isInTheWay(each)),
    conflicts: [...made.conflicts, ...inTheWay],
  }
}

/** What a conflict would be, if ours were to replace theirs. */
export const changeOf = ({ owner, type, now, intended }: Plan['conflicts'][number]): SetPreview => ({
  owner,
  type,
  before: now,
  after: intended,
})

/** Whether a change brings an alias to the name of such a set, or something else to that of an alias. */
export const excludes = (change: SetPreview, { owner, type }: { owner: Name; type: number }): boolean =>
  change.after !== undefined &&
  foldName(change.owner) === foldName(owner) &&
  (change.type === TYPE.CNAME) !== (type === TYPE.CNAME) &&
  !BESIDE_ALIAS.has(change.type) &&
  !BESIDE_ALIAS.has(type)

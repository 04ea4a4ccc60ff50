/** What cannot stay beside what a change brings: an alias stands alone at its name (RFC 1034 §3.6.2, RFC 4035 §2.5). */
import type { SetChange } from '../file/edit/changes.ts'
import { setAt, typesAt, type Zone, type Zones } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { rdataText } from '../records/rdata.ts'
import { BESIDE_ALIAS, TYPE, typeText } from '../records/types.ts'

/**
 * The removals that let these changes of a zone stand: of the alias, where other data comes to its name; of all other data, where an alias comes. None at the
 * apex, which cannot have an alias, nor where the changes themselves bring both.
 */
export function excludedBy(zones: Zones, zone: Zone, changes: readonly SetChange[]): SetChange[] {
  const owners = new Map<Name, SetChange[]>()
  for (const change of changes)
    owners.set(foldName(change.owner), [...(owners.get(foldName(change.owner)) ?? []), change])
  return [...owners.values()].flatMap((sets) => {
    const { owner } = sets[0]!
    if (foldName(owner) === foldName(zone.name)) return []
    const coming = sets.filter(({ data }) => data.length > 0).map(({ type }) => type)
    const bringsAlias = coming.includes(TYPE.CNAME)
    const bringsOther = coming.some((type) => type !== TYPE.CNAME && !BESIDE_ALIAS.has(type))
    if (bringsAlias === bringsOther) return []
    return [...typesAt(zones, zone, owner)]
      .filter((type) => (type === TYPE.CNAME) === bringsOther && !BESIDE_ALIAS.has(type))
      .filter((type) => !sets.some((each) => each.type === type))
      .map((type) => ({ owner, type, data: [] }))
  })
}

/** The sets that such removals take away, for people: "CNAME site.example." */
export const excludedText = (zones: Zones, zone: Zone, removals: readonly SetChange[]): string =>
  removals
    .flatMap(({ owner, type }) =>
      (setAt(zones, zone, owner, type)?.data ?? []).map((data) => `${typeText(type)} ${rdataText(type, data)}`),
    )
    .join(', ')

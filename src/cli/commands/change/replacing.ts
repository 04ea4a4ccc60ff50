/** What cannot exist next to what a change brings is removed in the same change: where --replace says so, or a person at the terminal. */
import { excludedBy, excludedText } from '../../../core/change/excluded.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { callText } from '../../call.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'

/** Asks at a terminal; false where there is nothing to remove, or nobody to ask. */
export async function agreedToReplace(
  zones: Zones,
  zone: Zone,
  changes: readonly SetChange[],
  options: { json?: boolean; dryRun?: boolean },
): Promise<boolean> {
  const excluded = excludedBy(zones, zone, changes)
  if (excluded.length === 0 || options.json || options.dryRun || !canAsk()) return false
  const coming = changes.filter(({ data }) => data.length > 0).map(({ type }) => typeText(type))
  const there = excludedText(zones, zone, excluded)
  const name = bare(excluded[0]!.owner)
  return agreedTo(printable(`${name} has ${there}, and ${coming.join(', ')} cannot exist next to it. Remove that?`))
}

/** The changes with those removals, or with how to have them. */
export function withExcluded(
  zones: Zones,
  zone: Zone,
  changes: readonly SetChange[],
  isReplacing: boolean,
): { changes: SetChange[]; notes: string[] } {
  const excluded = excludedBy(zones, zone, changes)
  if (isReplacing || excluded.length === 0) return { changes: [...excluded, ...changes], notes: [] }
  const types = excluded.map(({ type }) => typeText(type)).join(', ')
  const how = `To remove the ${types} at ${bare(excluded[0]!.owner)} in the same change: bramblefront ${callText()} --replace`
  return { changes: [...changes], notes: [how] }
}

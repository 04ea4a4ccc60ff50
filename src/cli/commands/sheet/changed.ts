/** What of a sheet is still to be done. */
import type { SetPreview } from '../../../core/change/change-set.ts'
import { differences, setKey, setsOf } from '../../../core/change/difference.ts'
import { type ActionRow, changedRows, withoutWildcards } from '../../../core/sheet/changes.ts'
import { fileOf } from '../../../workspace/workspace.ts'
import { otherOf, otherState, pastOf, statePublished } from '../past.ts'
import { serverStates } from '../servers.ts'
import type { Changed, SheetCall } from './call.ts'

/** What differs from what is published: from what `--with` names, else from what the zone’s servers answer, else from what was last published. */
export async function changedIn({ stated, source, zone, style, options, isWanted }: SheetCall): Promise<Changed> {
  const rowsOf = (sets: readonly SetPreview[]): ActionRow[] => changedRows(sets.filter(isWanted), zone, style)
  const other = otherOf(options.with ?? 'servers', source)
  if (other !== 'servers') {
    const { sets } = otherState(source, zone, other, options)
    return { rows: rowsOf(differences(sets, setsOf(source.zones, zone))), unanswered: 0 }
  }
  const at = options.with === undefined || options.with === 'servers' ? options.at : [options.with]
  const [found] = await serverStates(stated, { ...source, name: undefined }, { ...options, at, noTransfer: true })
  const { servers, unanswered } = found!
  if (servers.length === 0 && options.with === undefined && source.workspace) {
    const past = pastOf(source.workspace.folder, fileOf(source.workspace, zone.name)!, source.zones, zone)
    const published = statePublished(past, options.includeAnywhere)
    if (published)
      return { rows: rowsOf(differences(published.sets, setsOf(source.zones, zone))), unanswered, by: 'published' }
  }
  const told = new Map<string, SetPreview>()
  for (const { sets } of servers) for (const set of sets) if (!told.has(setKey(set))) told.set(setKey(set), set)
  const wildcards = [...setsOf(source.zones, zone).values()].filter(({ owner }) => owner.startsWith('*.'))
  return { rows: rowsOf(withoutWildcards([...told.values()], wildcards)), unanswered }
}

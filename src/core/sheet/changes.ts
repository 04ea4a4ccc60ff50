/** What of a sheet is still to be done, by what is there. */
import type { SetPreview } from '../change/change-set.ts'
import type { RecordSet, Zone } from '../model/zones.ts'
import { foldName } from '../names/name.ts'
import { rdataKey } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { RecordSetView } from '../view/record-set.ts'
import { rowsFor, type SheetRow } from './rows.ts'
import { type Style, shownTtl } from './style.ts'

export type Action = 'enter' | 'change' | 'delete' | 'keep'

export interface ActionRow extends SheetRow {
  action: Action
  /** What the servers have, in presentation form; null where nothing is known to be there. */
  before: string[] | null
}

/** Rows for the sets that differ: each as it is there, and as it is intended. Deletions come first at a name. */
export function changedRows(sets: readonly SetPreview[], zone: Zone, style: Style): ActionRow[] {
  const rows = sets.filter((set) => !isSameInForm(set, style)).flatMap((set) => rowsOf(set, zone, style))
  const rank = ({ action }: ActionRow): number => (action === 'delete' ? 0 : 1)
  const names = new Map<string, ActionRow[]>()
  for (const row of rows) {
    const there = names.get(foldName(row.owner))
    if (there) there.push(row)
    else names.set(foldName(row.owner), [row])
  }
  return [...names.values()].flatMap((each) => each.sort((a, b) => rank(a) - rank(b)))
}

function rowsOf({ before: there, after }: SetPreview, zone: Zone, style: Style): ActionRow[] {
  const before = there ? new RecordSetView(there).values : null
  if (after) return rowsFor(after, zone, style).map((row) => ({ ...row, action: there ? 'change' : 'enter', before }))
  return rowsFor(there!, zone, style).map((row) => ({ ...row, hints: [], action: 'delete', before }))
}

/** Whether a form shows the same for both: a TTL that it cannot take otherwise is no difference. */
const isSameInForm = ({ before, after }: SetPreview, style: Style): boolean =>
  before !== undefined &&
  after !== undefined &&
  before.ttl === shownTtl(after.ttl, style, before.ttl) &&
  isSameData(before, after)

/** Whether two sets of a type have the same data; a text that is only split elsewhere is the same. */
export function isSameData(a: RecordSet, b: RecordSet): boolean {
  const keysOf = ({ type, data }: RecordSet): string =>
    JSON.stringify(data.map((each) => (type === TYPE.TXT ? joined(each) : rdataKey(type, each))).sort())
  return keysOf(a) === keysOf(b)
}

export const everyRow = (sets: readonly Parameters<typeof rowsFor>[0][], zone: Zone, style: Style): ActionRow[] =>
  sets.flatMap((set) => rowsFor(set, zone, style).map((row) => ({ ...row, action: 'enter' as const, before: null })))

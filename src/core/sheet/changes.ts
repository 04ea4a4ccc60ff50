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

function rowsOf(set: SetPreview, zone: Zone, style: Style): ActionRow[] {
  const { before: there, after } = set
  const before = there ? new RecordSetView(there).values : null
  if (!after) return deleted(there!, zone, style)
  if (!there || style.rows === 'set')
    return rowsFor(after, zone, style).map((row) => ({ ...row, action: there ? 'change' : 'enter', before }))
  return recordRows(there, after, zone, style)
}

/** Of a form with a row a record: those that are there stay, unless their TTL is another; each of the others takes the place of one that goes, as long as there are any. */
function recordRows(there: RecordSet, after: RecordSet, zone: Zone, style: Style): ActionRow[] {
  const keyOf = formKey(after.type)
  const [had, wanted] = [there, after].map(({ data }) => new Set(data.map(keyOf)))
  const gone = there.data.filter((data) => !wanted!.has(keyOf(data)))
  const isSameTtl = there.ttl === shownTtl(after.ttl, style, there.ttl)
  const textsOf = (data: Uint8Array): string[] => new RecordSetView({ ...there, data: [data] }).values
  const rows = after.data.flatMap((data): ActionRow[] => {
    const [row] = rowsFor({ ...after, data: [data] }, zone, style)
    if (had!.has(keyOf(data))) return isSameTtl ? [] : [{ ...row!, action: 'change', before: textsOf(data) }]
    const old = gone.shift()
    return [{ ...row!, action: old ? 'change' : 'enter', before: old ? textsOf(old) : null }]
  })
  return [...deleted({ ...there, data: gone }, zone, style), ...rows]
}

const deleted = (set: RecordSet, zone: Zone, style: Style): ActionRow[] =>
  rowsFor(set, zone, style).map((row, i, { length }) => ({
    ...row,
    hints: [],
    action: 'delete',
    before: new RecordSetView(length === set.data.length ? { ...set, data: [set.data[i]!] } : set).values,
  }))

/** What tells values apart in a form: a text that is only split elsewhere is the same. */
const formKey =
  (type: number) =>
  (data: Uint8Array): string =>
    type === TYPE.TXT ? joined(data) : rdataKey(type, data)

/**
 * Sets as they are there themselves: of a name at which only a wildcard seems to answer, nothing is there (RFC 4592 §2.2), and nothing to delete. What is intended with
 * the same data as the wildcard counts as there: nobody could see whether it is. `wildcards`: those of the zone.
 */
export function withoutWildcards(sets: readonly SetPreview[], wildcards: readonly RecordSet[]): SetPreview[] {
  return sets.flatMap((set) => {
    const { before, after, owner } = set
    const name = foldName(owner)
    const isMade = (wildcard: RecordSet): boolean =>
      before !== undefined &&
      wildcard.type === before.type &&
      name !== foldName(wildcard.owner) &&
      name.endsWith(foldName(wildcard.owner).slice(1)) &&
      isSameData(before, wildcard)
    if (!wildcards.some(isMade) || (after && isSameData(before!, after))) return [set]
    return after ? [{ ...set, before: undefined }] : []
  })
}

/** Whether a form shows the same for both: a TTL that it cannot take otherwise is no difference. */
const isSameInForm = ({ before, after }: SetPreview, style: Style): boolean =>
  before !== undefined &&
  after !== undefined &&
  before.ttl === shownTtl(after.ttl, style, before.ttl) &&
  isSameData(before, after)

/** Whether two sets of a type have the same data; a text that is only split elsewhere is the same. */
export function isSameData(a: RecordSet, b: RecordSet): boolean {
  const keysOf = ({ type, data }: RecordSet): string => JSON.stringify(data.map(formKey(type)).sort())
  return keysOf(a) === keysOf(b)
}

export const everyRow = (sets: readonly Parameters<typeof rowsFor>[0][], zone: Zone, style: Style): ActionRow[] =>
  sets.flatMap((set) => rowsFor(set, zone, style).map((row) => ({ ...row, action: 'enter' as const, before: null })))

/** What of a sheet is still to be done, by what the zone’s servers answer. */
import type { ConfirmedSet } from '../confirm/status.ts'
import type { Judged } from '../confirm/verdict.ts'
import type { Zone } from '../model/zones.ts'
import { parseRdata, rdataText } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { rowsFor, type SheetRow } from './rows.ts'
import { type Style, shownTtl } from './style.ts'

export type Action = 'enter' | 'change' | 'delete' | 'keep'

export interface ActionRow extends SheetRow {
  action: Action
  /** What the servers have, in presentation form; null where nothing is known to be there. */
  before: string[] | null
}

/** Rows for the sets that differ; deletions first at a name. `unreached` are sets that no server answered for. */
export function changedRows(
  sets: readonly ConfirmedSet[],
  zone: Zone,
  style: Style,
): { rows: ActionRow[]; unreached: number } {
  const rows: ActionRow[] = []
  let unreached = 0
  for (const { question, answers } of sets) {
    const told = answers.filter(({ verdict }) => !SILENT.has(verdict))
    if (told.length === 0) unreached++
    const other = told.find((each) => each.verdict !== 'as-intended')
    if (!other) continue
    const { intended, owner, type } = question
    const before = cameIn(other, intended?.data.map((data) => rdataText(type, data)) ?? [])
    if (!intended) {
      rows.push(
        ...rowsFor({ owner, type, ttl: other.ttl ?? 0, data: parsed(type, before) }, zone, style).map((row) => ({
          ...row,
          hints: [],
          action: 'delete' as const,
          before,
        })),
      )
      continue
    }
    const action = before.length === 0 ? 'enter' : 'change'
    if (
      action === 'change' &&
      isSame(type, before, intended.data) &&
      other.ttl === shownTtl(intended.ttl, style, other.ttl ?? 0)
    )
      continue
    rows.push(
      ...rowsFor(intended, zone, style).map((row) => ({
        ...row,
        action: action as Action,
        before: before.length === 0 ? null : before,
      })),
    )
  }
  const rank = ({ action }: ActionRow): number => (action === 'delete' ? 0 : 1)
  const names = [...new Set(rows.map(({ owner }) => owner))]
  return {
    rows: names.flatMap((name) => rows.filter(({ owner }) => owner === name).sort((a, b) => rank(a) - rank(b))),
    unreached,
  }
}

const SILENT = new Set<Judged['verdict']>([
  'no-reply',
  'not-tried',
  'refused',
  'failed',
  'garbled',
  'not-authoritative',
])

/** The values that came: those intended that did, and the others. */
const cameIn = ({ missing, extra }: Judged, intended: readonly string[]): string[] => [
  ...intended.filter((value) => !missing.includes(value)),
  ...extra,
]

const ROOT = new Uint8Array([0])
const parsed = (type: number, values: readonly string[]): Uint8Array[] =>
  values.flatMap((value) => {
    const made = parseRdata(type, value, ROOT)
    return 'wire' in made ? [made.wire] : []
  })

/** Whether values are the same in a form: a text that is only split elsewhere is. */
function isSame(type: number, before: readonly string[], data: readonly Uint8Array[]): boolean {
  const keyOf = (each: Uint8Array): string => (type === TYPE.TXT ? joined(each) : rdataText(type, each).toLowerCase())
  const [a, b] = [parsed(type, before), data].map((all) => all.map(keyOf).sort())
  return JSON.stringify(a) === JSON.stringify(b)
}

export const everyRow = (sets: readonly Parameters<typeof rowsFor>[0][], zone: Zone, style: Style): ActionRow[] =>
  sets.flatMap((set) => rowsFor(set, zone, style).map((row) => ({ ...row, action: 'enter' as const, before: null })))

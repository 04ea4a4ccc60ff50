/** A sheet as a table of text, for people, which `transcribe` reads back: a column a field, a line a record. */

import type { SheetRow } from './rows.ts'
import type { FieldName } from './style.ts'

/** In the order in which forms have them. */
const ORDER: readonly FieldName[] = [
  'action',
  'type',
  'service',
  'protocol',
  'owner',
  'preference',
  'priority',
  'weight',
  'port',
  'target',
  'value',
  'ttl',
]

export interface SheetTable {
  headings: string[]
  /** The lines of each row. */
  rows: string[][][]
  /** What stands between cells: bars, unless a value has one. */
  parting: '|' | '\t'
}

/** Rows in tables of the same fields, so that none is wider than it must be; with `inOrder`, no row is put before one that it stands behind. */
export function grouped<Row extends SheetRow>(rows: readonly Row[], inOrder: boolean): Row[][] {
  const groups: { key: string; rows: Row[] }[] = []
  for (const row of rows) {
    const key = row.fields.map(({ name }) => name).join()
    const group = inOrder ? groups.at(-1) : groups.find((each) => each.key === key)
    if (group?.key === key) group.rows.push(row)
    else groups.push({ key, rows: [row] })
  }
  return groups.map((each) => each.rows)
}

export function tableOf(rows: readonly SheetRow[]): SheetTable {
  const names = ORDER.filter((name) => rows.some(({ fields }) => fields.some((field) => field.name === name)))
  const labelOf = (name: FieldName): string =>
    rows.flatMap(({ fields }) => fields).find((field) => field.name === name)!.label
  const cells = rows.map(({ fields }) => {
    const columns = names.map((name) => (fields.find((field) => field.name === name)?.value ?? '').split('\n'))
    const lines = Math.max(...columns.map(({ length }) => length))
    // Each line stands for itself: what is the same for all of a set is repeated.
    return Array.from({ length: lines }, (_, line) =>
      columns.map((column) => column[line] ?? (column.length === 1 ? column[0]! : '')),
    )
  })
  return {
    headings: names.map(labelOf),
    rows: cells,
    parting: cells.flat(2).some((cell) => cell.includes('|')) ? '\t' : '|',
  }
}

const LONG = 40

/** Its lines: the heading, then those of each row. */
export function linesOf({ headings, rows, parting }: SheetTable): { heading: string; rows: string[][] } {
  if (parting === '\t')
    return { heading: headings.join('\t'), rows: rows.map((row) => row.map((cells) => cells.join('\t'))) }
  // A key does not make the column wide for all others.
  const short = (cells: readonly string[], i: number): number => (cells[i]!.length > LONG ? 0 : cells[i]!.length)
  const widths = headings.map((heading, i) => Math.max(heading.length, ...rows.flat().map((cells) => short(cells, i))))
  const line = (cells: readonly string[]): string =>
    `| ${cells.map((cell, i) => cell.padEnd(widths[i]!)).join(' | ')} |`
  return { heading: line(headings), rows: rows.map((row) => row.map(line)) }
}

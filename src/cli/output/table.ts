/** Rows in columns without lines around them; the last column takes what room is left and is broken to fit. */
import Table from 'cli-table3'
import stringWidth from 'fast-string-width'
import { wrapAnsi } from 'fast-wrap-ansi'
import type { Page } from './page.ts'
import { printable } from './printable.ts'

const NO_LINES = Object.fromEntries(
  [
    'top',
    'top-mid',
    'top-left',
    'top-right',
    'bottom',
    'bottom-mid',
    'bottom-left',
    'bottom-right',
    'left',
    'left-mid',
    'mid',
    'mid-mid',
    'right',
    'right-mid',
    'middle',
  ].map((part) => [part, '']),
)
const GAP = 2
const LEAST_LAST = 24
const PIECE = 100

/** Puts rows of as many cells on the page; nothing is cut off. `paint` colours a cell after it was measured. */
export function table(
  page: Page,
  rows: string[][],
  indent = '',
  paint: (cell: string, column: number, row: number) => string = (cell) => cell,
): void {
  if (rows.length === 0) return
  const columns = rows[0].length
  const natural = Array.from(
    { length: columns },
    (_, i) => rows.reduce((most, row) => Math.max(most, stringWidth(printable(row[i]))), 0) + GAP,
  )
  const fits = natural.reduce((sum, width) => sum + width, indent.length - GAP) <= page.width
  const most = fits ? page.width : Math.floor(page.width * 0.45)
  const widths = natural.map((width) => Math.min(width, most + GAP))
  const others = widths.slice(0, -1).reduce((sum, width) => sum + width, indent.length)
  const longest = natural[columns - 1] - GAP
  widths[columns - 1] = Math.max(Math.min(longest, LEAST_LAST), Math.min(longest, page.width - others)) + GAP
  const options = {
    chars: NO_LINES,
    style: { 'padding-left': 0, 'padding-right': GAP, head: [], border: [], compact: true },
    colWidths: widths,
  }
  // The time that a table takes grows with the square of its rows: long ones are made piece by piece.
  for (let from = 0; from < rows.length; from += PIECE) {
    const made = new Table(options)
    for (const [r, row] of rows.slice(from, from + PIECE).entries())
      made.push(
        row.map((cell, i) =>
          paint(wrapAnsi(printable(cell), widths[i] - GAP, { hard: true, trim: !cell.startsWith(' ') }), i, from + r),
        ),
      )
    for (const line of made.toString().split('\n')) page.line((indent + line).trimEnd())
  }
}

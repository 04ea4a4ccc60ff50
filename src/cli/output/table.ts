/** Rows in columns without lines around them; the last column takes what room is left and is broken to fit, or stands below where there is none. */
import stringWidth from 'fast-string-width'
import { wrapAnsi } from 'fast-wrap-ansi'
import { printable } from '../../core/printable.ts'
import type { Page } from './page.ts'

const GAP = 2
const LEAST_LAST = 24

/** Puts rows of as many cells on the page; nothing is cut off. `paint` colours a cell after it was measured. */
export function table(
  page: Page,
  rows: string[][],
  indent = '',
  paint: (cell: string, column: number, row: number) => string = (cell) => cell,
): void {
  if (rows.length === 0) return
  const columns = rows[0]!.length
  const natural = Array.from(
    { length: columns },
    (_, i) => rows.reduce((most, row) => Math.max(most, stringWidth(printable(row[i]!))), 0) + GAP,
  )
  const fits = natural.reduce((sum, width) => sum + width, indent.length - GAP) <= page.width
  const most = fits ? page.width : Math.floor(page.width * 0.45)
  // A name is never broken while the columns after it have room left.
  const widths = natural.map((width, i) =>
    Math.min(width, Math.max(most, Math.min(longestWord(rows, i), page.width - LEAST_LAST - GAP)) + GAP),
  )
  const others = widths.slice(0, -1).reduce((sum, width) => sum + width, indent.length)
  const longest = natural[columns - 1]! - GAP
  const word = longestWord(rows, columns - 1)
  // Where a word of the last column would be broken, it stands below the others.
  const isBelow = columns > 2 && others + word > page.width
  const least = columns > 2 ? word : Math.min(longest, LEAST_LAST)
  widths[columns - 1] = Math.max(least, Math.min(longest, page.width - others)) + GAP
  for (const [r, row] of rows.entries()) {
    const beside = isBelow ? row.slice(0, -1) : row
    const cells = beside.map((cell, i) =>
      wrapAnsi(printable(cell), widths[i]! - GAP, { hard: true, trim: !cell.startsWith(' ') }).split('\n'),
    )
    const height = Math.max(...cells.map((lines) => lines.length))
    for (let l = 0; l < height; l++) {
      const line = cells.map((lines, i) => {
        const piece = lines[l] ?? ''
        return (piece && paint(piece, i, r)) + ' '.repeat(Math.max(0, widths[i]! - stringWidth(piece)))
      })
      page.line((indent + line.join('')).trimEnd())
    }
    const below = isBelow ? row[columns - 1]! : ''
    if (below !== '') {
      const lead = `${indent}${' '.repeat(widths[0]!)}`
      page.text(below, lead, lead, (piece) => paint(piece, columns - 1, r))
    }
  }
}

/** In columns; the blanks that indent a cell count with its first word. */
const longestWord = (rows: readonly string[][], column: number): number =>
  rows.reduce(
    (most, row) =>
      (printable(row[column]!).match(/^ *\S+|\S+/g) ?? []).reduce(
        (longest, word) => Math.max(longest, stringWidth(word)),
        most,
      ),
    0,
  )

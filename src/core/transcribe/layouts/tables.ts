/** Rows and columns: parted by tabs, bars, commas, semicolons, or blanks that align. */
import type { Candidate, Cell } from '../candidate.ts'
import { type Role, roleOf } from '../labels.ts'
import type { Line } from '../text.ts'
import { typeIn } from '../values.ts'
import { EmptyCells } from './empty-cells.ts'

export type Parting = '\t' | '|' | ',' | ';' | '  '

interface Part {
  text: string
  /** Where it begins in its line. */
  at: number
}

const MOST_CELLS = 64
/** Longer lines are no rows of a table. */
const MOST_LETTERS = 16_384

/** The cells of a line, parted in one way; a quoted cell may hold the sign that parts. */
function partsOf(text: string, parting: Parting): Part[] {
  if (text.length > MOST_LETTERS) return []
  const parts: Part[] = []
  if (parting === '  ') {
    for (const match of text.matchAll(/\S+(?: \S+)*/g)) parts.push({ text: match[0], at: match.index })
    return parts
  }
  let start = 0
  let quoted = false
  for (let at = 0; at <= text.length && parts.length <= MOST_CELLS; at++) {
    const sign = text[at]
    // One that is doubled inside a quoted cell closes it, and opens it again.
    if (
      sign === '"' &&
      (quoted ||
        (text[at - 1] === '"' && text.slice(start, at).trimStart().startsWith('"')) ||
        text.slice(start, at).trim() === '')
    )
      quoted = !quoted
    if (at < text.length && (quoted || sign !== parting)) continue
    parts.push({ text: text.slice(start, at).trim(), at: start })
    start = at + 1
  }
  if (parting !== '|') return parts.map(csvCell)
  if (parts[0]?.text === '') parts.shift()
  if (parts.at(-1)?.text === '') parts.pop()
  return parts
}

/** A quoted cell of a spreadsheet, where quotes inside are doubled. */
const csvCell = (part: Part): Part =>
  /^"(?:[^"]|"")*"$/.test(part.text) ? { ...part, text: part.text.slice(1, -1).replaceAll('""', '"') } : part

/** In which ways a line may be parted, the surest first. */
function partingsOf(text: string): Parting[] {
  const ways: Parting[] = []
  if (text.includes('\t')) ways.push('\t')
  if (/\|.*\||\S\s+\|\s+\S/.test(text)) ways.push('|')
  if (/\S {2,}\S/.test(text)) ways.push('  ')
  if (/;.*;/.test(text)) ways.push(';')
  if (/,.*,/.test(text)) ways.push(',')
  return ways
}

/** A heading: what its columns are, and where they begin. */
export interface Heading {
  parting: Parting
  columns: { role?: Role; at: number }[]
  /** The type of all rows, where the heading names it: `CNAME name`, `CNAME value`. */
  type?: string
}

/** Reads a line as a heading: most of its cells are labels, and none is a type. */
export function headingOf({ text }: Line): Heading | undefined {
  for (const parting of partingsOf(text)) {
    const parts = partsOf(text, parting)
    if (parts.length < 2) continue
    const heading = asHeading(parts, parting)
    if (heading) return heading
  }
  return undefined
}

function asHeading(parts: readonly Part[], parting: Parting): Heading | undefined {
  const types = new Set<string>()
  const columns = parts.map(({ text, at }) => {
    const plain = text.replace(/[*_`"]/g, ' ').trim()
    const [, type, rest] = TYPED.exec(plain) ?? []
    if (type !== undefined && roleOf(rest!) !== undefined) types.add(type)
    return { role: type === undefined ? roleOf(plain) : roleOf(rest!), at }
  })
  // A name and a type: the column below the type has its values.
  const alone = parts.findIndex(
    ({ text }) => typeIn(text) !== undefined && text === text.toUpperCase() && text !== 'TXT',
  )
  if (parts.length === 2 && alone >= 0 && columns[1 - alone]!.role === 'owner') {
    types.add(parts[alone]!.text)
    columns[alone]!.role = 'value'
  }
  const known = columns.filter(({ role }) => role !== undefined)
  const kinds = new Set(known.map(({ role }) => role))
  // Labels with what they stand for are no heading.
  if (parts.some(({ text }) => /:(?:\s|$)/.test(text))) return undefined
  if (known.length < 2 || known.length * 2 < columns.length) return undefined
  if (!kinds.has('value') && !kinds.has('owner') && !kinds.has('type') && !kinds.has('port')) return undefined
  // “TXT” is what some call the value; beside a type that stands alone it is a row.
  if (types.size === 0 && parts.some(({ text }) => typeIn(text) !== undefined) && !kinds.has('type')) return undefined
  return { parting, columns, ...(types.size === 1 ? { type: [...types][0]! } : {}) }
}

/** The cells of a row below a heading. */
export function rowBelow(heading: Heading, line: Line): Cell[] | undefined {
  const parts = partsOf(line.text, heading.parting)
  if (parts.length === 0 || parts.length > MOST_CELLS) return undefined
  const { columns } = heading
  // What is in a column says more than what stands above it.
  const at = columns.some(({ role }) => role === 'type')
    ? -1
    : parts.findIndex(({ text }) => typeIn(text) !== undefined && text === text.toUpperCase())
  if (columns[at]) columns[at].role = 'type'
  if (heading.parting === '  ' && parts.length !== columns.length) return aligned(heading, parts, line.number)
  const cells = parts.map(({ text }, i): Cell => ({ text, line: line.number, role: columns[i]?.role }))
  return heading.type === undefined ? cells : [{ text: heading.type, line: line.number, role: 'type' }, ...cells]
}

/** A label that has the type in front: `TXT record name`. */
export const TYPED = /^(TXT|CNAME|MX|A|AAAA|SRV|NS|CAA|TLSA)(?:[ -]record)?\s+(\S.*)$/i

/** Cells that stand under the column that begins nearest to them. */
function aligned({ columns }: Heading, parts: readonly Part[], line: number): Cell[] {
  const cells: Cell[] = columns.map(({ role }) => ({ text: '', line, role }))
  for (const { text, at } of parts) {
    let nearest = 0
    for (const [i, column] of columns.entries())
      if (Math.abs(column.at - at) < Math.abs(columns[nearest]!.at - at)) nearest = i
    const cell = cells[nearest]!
    if (cell.text !== '') cell.several = true
    cell.text = cell.text === '' ? text : `${cell.text} ${text}`
  }
  return cells
}

/** A row without a heading: a line that can be parted so that one of its cells is a type. */
export function rowAlone(line: Line): Cell[] | undefined {
  for (const parting of partingsOf(line.text)) {
    const parts = partsOf(line.text, parting).filter(({ text }) => parting === '|' || text !== '')
    if (parts.length < 3 || parts.length > MOST_CELLS) continue
    if (parts.some(({ text }) => typeIn(text) !== undefined))
      return parts.map(({ text }) => ({ text, line: line.number }))
  }
  return undefined
}

export const isRuler = (text: string): boolean => /^[\s|:+=_*-]{3,}$/.test(text)

/** Rows of cells as candidates, the first a heading where it is one. */
export function ofRows(rows: readonly { line: number; cells: readonly string[] }[]): Candidate[] {
  let heading: Heading | undefined
  let empty = new EmptyCells()
  return rows.flatMap(({ line, cells }): Candidate[] => {
    const parts = cells.map((text, at) => ({ text, at }))
    const own = asHeading(parts, '|')
    if (own) {
      heading = own
      empty = new EmptyCells()
      return []
    }
    const made = cells.map((text, i): Cell => ({ text, line, role: heading?.columns[i]?.role }))
    return [{ line, last: line, cells: empty.filled(made) }]
  })
}

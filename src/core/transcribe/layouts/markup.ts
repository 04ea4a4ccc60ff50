/** XML fragments and HTML tables. */
import { Parser } from 'htmlparser2'
import type { Candidate, Cell } from '../candidate.ts'
import { roleOf } from '../labels.ts'
import { typeIn } from '../values.ts'
import { ofRows } from './tables.ts'

interface Element {
  name: string
  line: number
  attributes: Record<string, string>
  children: Element[]
  text: string
}

/** Deeper or more is no list of records. */
const DEEPEST = 60

/** The records of a text with markup; undefined where there are none. `lines` are those that they stand on. */
export function fromMarkup(text: string): { candidates: Candidate[]; lines: Set<number> } | undefined {
  if (!/<\/[a-z]|\/>/i.test(text)) return undefined
  const root = parsed(text)
  const rows = spread(inside(root, ({ name }) => name === 'tr'))
  const candidates =
    rows.length > 0
      ? ofRows(rows)
      : inside(root, (element) => recordOf(element) !== undefined).map((element) => recordOf(element)!)
  if (candidates.length === 0) return undefined
  const lines = new Set<number>()
  const spans = rows.length > 0 ? inside(root, ({ name }) => name === 'table') : root.children
  for (const element of spans.length > 0 ? spans : root.children)
    for (let line = element.line; line <= lastLine(element); line++) lines.add(line)
  return { candidates, lines }
}

/** Rows with their cells; one that spans several columns or rows is in each of them. */
function spread(rows: readonly Element[]): { line: number; cells: string[] }[] {
  const over: { text: string; rows: number }[] = []
  const count = (text: string | undefined): number => Math.min(Math.max(Number(text) || 1, 1), MOST_SPANNED)
  return rows.map(({ line, children }) => {
    const cells: string[] = []
    const fromAbove = (): void => {
      for (let above = over[cells.length]; above && above.rows > 0; above = over[cells.length]) {
        above.rows--
        cells.push(above.text)
      }
    }
    for (const cell of children.filter(({ name }) => name === 'td' || name === 'th')) {
      fromAbove()
      const text = allText(cell)
      for (let n = count(cell.attributes.colspan); n > 0; n--) {
        over[cells.length] = { text, rows: count(cell.attributes.rowspan) - 1 }
        cells.push(text)
      }
    }
    fromAbove()
    return { line, cells }
  })
}

/** No cell of a list of records spans more. */
const MOST_SPANNED = 64

function parsed(text: string): Element {
  const root: Element = { name: '', line: 1, attributes: {}, children: [], text: '' }
  const open = [root]
  let line = 1
  let at = 0
  const lineAt = (to: number): number => {
    for (; at < to; at++) if (text.charCodeAt(at) === 10) line++
    return line
  }
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        const element = { name, line: lineAt(parser.startIndex), attributes, children: [], text: '' }
        if (open.length < DEEPEST) open.at(-1)!.children.push(element)
        open.push(element)
      },
      ontext(data) {
        open.at(-1)!.text += data
      },
      onclosetag() {
        if (open.length > 1) open.pop()
      },
    },
    { recognizeSelfClosing: true, lowerCaseAttributeNames: true },
  )
  parser.end(text)
  return root
}

const allText = ({ text, children }: Element): string =>
  [text, ...children.map(allText)].join(' ').replace(/\s+/g, ' ').trim()
const lastLine = ({ line, children }: Element): number => Math.max(line, ...children.slice(-1).map(lastLine))

function inside(element: Element, wanted: (element: Element) => boolean): Element[] {
  return element.children.flatMap((child) => (wanted(child) ? [child] : inside(child, wanted)))
}

/** An element whose attributes or children are the parts of a record. */
function recordOf({ name, line, attributes, children }: Element): Candidate | undefined {
  const parts = [
    ...Object.entries(attributes),
    ...children.filter((child) => child.children.length === 0).map((child) => [child.name, child.text] as const),
  ]
  const cells = parts.flatMap(([key, text]): Cell[] => {
    const role = roleOf(key.replace(/[_-]+/g, ' '))
    return role === undefined ? [] : [{ text: text.trim(), line, role }]
  })
  if (!cells.some(({ role }) => role === 'type') && typeIn(name) !== undefined)
    cells.unshift({ text: name, line, role: 'type' })
  const has = (wanted: string): boolean => cells.some(({ role, text }) => role === wanted && text !== '')
  return has('type') && has('value') ? { line, last: line, cells } : undefined
}

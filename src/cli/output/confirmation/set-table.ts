/** A table of the sets of a zone. */
import type { ConfirmedSet } from '../../../core/confirm/status.ts'
import type { Judged } from '../../../core/confirm/verdict.ts'
import type { Name } from '../../../core/names/name.ts'
import type { Page } from '../page.ts'
import { table } from '../table.ts'
import { paintStatus, paintVerdict, setText, statusText, verdictText } from './words.ts'

/** A row a set; a column a vantage where they fit, else what they come to. */
export function setTable(page: Page, zone: Name, sets: readonly ConfirmedSet[], labels: readonly string[]): void {
  const { colour } = page
  const names = sets.map((set) => setText(set, zone))
  const longest = (texts: readonly string[]): number =>
    texts.reduce((most, { length }) => Math.max(most, length), 0) + 2
  const width = longest(names)
  const columns =
    labels.length > 5 ? [] : labels.map((label) => longest([label, ...sets.map((set) => cellOf(set, label))]))
  const byVantage =
    labels.length > 1 &&
    labels.length <= 5 &&
    width + columns.reduce((a, b) => a + b, 0) <= page.width &&
    width <= page.width * 0.45
  const rows = byVantage
    ? sets.map((set, i) => [names[i]!, ...labels.map((label) => cellOf(set, label))])
    : sets.map((set, i) => [statusText(set.status.word), names[i]!, noteOf(set)])
  const paint = (cell: string, column: number, row: number): string => {
    const set = sets[byVantage ? row - 1 : row]
    if (!set) return colour.dim(cell)
    if (byVantage) return column === 0 ? cell : paintVerdict(colour, cell)
    return column === 0 ? paintStatus(colour, set.status.word, cell) : column === 2 ? colour.dim(cell) : cell
  }
  table(page, byVantage ? [['', ...labels], ...rows] : rows, '', paint)
}

function cellOf({ answers, status }: ConfirmedSet, label: string): string {
  const of = answers.filter(({ vantage }) => vantage === label)
  if (of.length === 0) return '– not asked'
  const wrong = of.find(({ verdict }) => verdict !== 'as-intended')
  const cell = verdictText((wrong ?? of[0]!).verdict, status.word)
  const count = of.filter(({ verdict }) => verdict === of[0]!.verdict).length
  return of.length > 1 && count < of.length
    ? `${cell} (${of.filter(({ verdict }) => verdict === wrong!.verdict).length} of ${of.length})`
    : cell
}

function noteOf({ question, answers, status }: ConfirmedSet): string {
  if (status.word !== 'confirmed') return ''
  const ttls = [...new Set(answers.flatMap(({ ttl }) => (ttl === null ? [] : [ttl])))]
  const asked = question.asked === question.owner ? [] : [`asked as ${question.asked}`]
  return [
    ...asked,
    ...(question.intended && ttls.length > 0 ? [`TTL ${ttls.join(' and ')}`] : question.intended ? [] : ['removed']),
    ...notesOf(answers),
  ].join(', ')
}

const notesOf = (answers: readonly Judged[]): string[] => [...new Set(answers.flatMap(({ notes }) => notes))]

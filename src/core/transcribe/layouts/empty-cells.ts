/** What the empty cells of a table stand for: the cell above, the domain itself, or nothing that the table shows. */
import { TYPE } from '../../records/types.ts'
import { type Cell, isEmpty } from '../candidate.ts'
import type { Role } from '../labels.ts'
import { isOnlyOf } from '../parts.ts'
import { typeIn } from '../values.ts'

/**
 * Fills the empty cells of one table, row by row. An empty type is the one above where the table shows it: by a value that only that type has, by an owner that is empty,
 * too, or by another row whose cells were merged; not where it repeats a type. An empty owner beside a type is the domain itself in a table that begins with one; else it
 * may be the owner above as well.
 */
export class EmptyCells {
  private above: readonly Cell[] | undefined
  private merges = false
  private repeats = false
  private beginsEmpty = false

  /** The cells of the next row, those that are empty as they are meant. */
  filled(cells: readonly Cell[]): readonly Cell[] {
    const [type, before] = [textOf(cells, 'type'), textOf(this.above ?? [], 'type')]
    if (type === undefined) return cells
    if (type === '') return this.withType(cells, typeIn(before ?? ''))
    this.repeats ||= type === before
    this.above = this.withOwner(cells)
    return this.above
  }

  private withType(cells: readonly Cell[], known: number | undefined): readonly Cell[] {
    const { above } = this
    const value = cells.find(({ role, text }) => role === 'value' && !isEmpty(text))
    if (above === undefined || known === undefined || !value) return cells
    const isShown =
      isOnlyOf(known, value.text) ||
      (known === TYPE.MX && !isEmpty(textOf(cells, 'priority') ?? '')) ||
      (known !== TYPE.TXT && textOf(cells, 'owner') === '')
    this.merges ||= isShown && !this.repeats
    const carried = this.merges && (isShown || known !== TYPE.TXT) ? 'sure' : 'unsure'
    this.above = cells.map((cell) =>
      cell.text === '' && (cell.role === 'type' || cell.role === 'owner')
        ? { ...cell, text: textOf(above, cell.role) ?? '', carried }
        : cell,
    )
    return this.above
  }

  private withOwner(cells: readonly Cell[]): readonly Cell[] {
    const [owner, before] = [textOf(cells, 'owner'), textOf(this.above ?? [], 'owner')]
    if (owner !== '') return cells
    this.beginsEmpty ||= this.above === undefined
    if (before === undefined || before === '' || this.beginsEmpty) return cells
    return cells.map((cell) => (cell.role === 'owner' ? { ...cell, mayBe: before } : cell))
  }
}

const textOf = (cells: readonly Cell[], wanted: Role): string | undefined =>
  cells.find(({ role }) => role === wanted)?.text

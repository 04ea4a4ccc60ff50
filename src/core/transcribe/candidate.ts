/** What every layout comes to: cells that may be one record. */
import type { Role } from './labels.ts'

export interface Cell {
  text: string
  line: number
  /** By its heading or label; what is in it is looked at all the same. */
  role?: Role
  /** It is empty, and read as the cell above it. */
  carried?: 'sure' | 'unsure'
  /** It is empty, and may be this one above it. */
  mayBe?: string
  /** Texts that stand apart are nearest to its heading. */
  several?: boolean
}

export interface Candidate {
  /** Where it begins and ends, from one. */
  line: number
  last: number
  cells: readonly Cell[]
  /** Cells are words of a line, not fields of a form: a text may be several of them. */
  words?: boolean
  /** It is told in this sentence, whose words may mean something else. */
  told?: string
  /** All the names for which that sentence states it. */
  names?: readonly string[]
  /** An arrow stands between the name and where it leads. */
  isLed?: boolean
  /** Why it is not certain. */
  doubt?: string
  /** It is a line of a zone file: a name without its final dot is relative to this. */
  origin?: string
}

/** A cell that holds nothing: of a name, the apex. */
export const isEmpty = (text: string): boolean =>
  /^(?:|-+|–|—|\.\.\.|n\/?a|none|\(?(?:leave (?:it |this )?(?:blank|empty)|blank|empty|vide|laisser vide|leer|leer lassen|frei lassen|vac[ií]o|dejar (?:en blanco|vac[ií]o)|vuoto|lasciare vuoto|leeg|leeg laten|vazio|deixar em branco|puste|tomt)\)?|<(?:blank|empty|leer|vide|vac[ií]o)>)$/i.test(
    text.trim(),
  )

/** What a pasted text says. */
import type { Name } from '../names/name.ts'
import { type Rdata, rdataKey } from '../records/rdata.ts'
import type { Row } from './record.ts'

/** Where something stands: a line, and of which text where there are several. */
export interface Stand {
  line: number
  of?: string
}

/** The line as people are told of it, and as an answer names it: `12`, `email.txt:12`. */
export const standText = ({ line, of }: Stand): string => (of === undefined ? String(line) : `${of}:${line}`)

export interface Instructions {
  rows: Row[]
  /** Placeholders that are still to be filled in; `what` they are, where that is known. */
  blanks: (Stand & { text: string; name: string; what?: string })[]
  /** Lines that seem to state a record and cannot be understood. */
  unread: (Stand & { text: string; why: string })[]
  /** What is worth a second look: it stops nothing. */
  notes: (Stand & { text: string })[]
  /** What the text says of records beyond stating them. */
  intents: { line: number; about: 'delete' | 'replace' | 'registrar'; owner: Name; type: number; data?: Rdata }[]
  /** What hosting companies offer in place of a record, by the name that it is at. */
  features: { line: number; feature: string; owner: Name }[]
  /** Private keys where a record was expected: never shown, never written. */
  secrets: { line: number; owner: Name; type: number; why: string }[]
  /** Names that `--fill` may be given. */
  asked: ReadonlySet<string>
}

/** What several texts say, as one; of more than one, what stands in each is told with its name. */
export function together(texts: readonly { name: string; says: Instructions }[]): Instructions {
  const keys = new Set<string>()
  const all = texts.map(({ says }) => says)
  if (texts.length > 1)
    for (const { name, says } of texts)
      for (const each of [...says.rows, ...says.blanks, ...says.unread, ...says.notes]) each.of = name
  const asked = new Set(all.flatMap((each) => [...each.asked]))
  const of = <K extends Exclude<keyof Instructions, 'asked'>>(key: K) => all.flatMap((each) => each[key] as never[])
  const rows = (of('rows') as Row[]).filter((row) => {
    const key = `${row.owner} ${row.type} ${rdataKey(row.type, row.data)}`
    return row.damage !== undefined || (!keys.has(key) && keys.add(key))
  })
  return {
    rows,
    blanks: of('blanks'),
    unread: of('unread'),
    notes: of('notes'),
    intents: of('intents'),
    features: of('features'),
    secrets: of('secrets'),
    asked,
  }
}

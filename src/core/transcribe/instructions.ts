/** What a pasted text says. */
import type { Name } from '../names/name.ts'
import { type Rdata, rdataKey } from '../records/rdata.ts'
import type { Row } from './record.ts'

export interface Instructions {
  rows: Row[]
  /** Placeholders that are still to be filled in; `what` they are, where that is known. */
  blanks: { line: number; text: string; name: string; what?: string }[]
  /** Lines that seem to state a record and cannot be understood. */
  unread: { line: number; text: string; why: string }[]
  /** What is worth a second look: it stops nothing. */
  notes: { line: number; text: string }[]
  /** What the text says of records beyond stating them. */
  intents: { line: number; about: 'delete' | 'replace' | 'registrar'; owner: Name; type: number; data?: Rdata }[]
  /** What hosting companies offer in place of a record, by the name that it is at. */
  features: { line: number; feature: string; owner: Name }[]
  /** Private keys where a record was expected: never shown, never written. */
  secrets: { line: number; owner: Name; type: number; why: string }[]
  /** Names that `--fill` may be given. */
  asked: ReadonlySet<string>
}

/** What several texts say, as one. */
export function together(all: readonly Instructions[]): Instructions {
  const keys = new Set<string>()
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

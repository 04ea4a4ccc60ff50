/** Texts about how mail is carried to a domain: MTA-STS (RFC 8461) and reports of it, TLS-RPT (RFC 8460). */

import type { TextProblem } from '../../mail/tags.ts'
import type { RecordId } from '../../model/zones.ts'
import { joined } from '../../records/views.ts'
import { SCOPED } from '../traits.ts'
import type { Reading, TextKind } from './text-rules.ts'

export interface TransportReading extends Reading {
  /** Whether it counts: unrelated texts are set aside first. */
  counts: boolean
}

interface Transport {
  family: string
  /** The labels of its owner. */
  labels: readonly string[]
  version: string
  /** A text that was meant to be one, by its beginning. */
  meant: RegExp
  counts(text: string): boolean
  parse(text: string): { problems: TextProblem[] }
}

/** The kind of text that stands at such names. */
export function transportTexts({
  family,
  labels,
  version,
  meant,
  counts,
  parse,
}: Transport): TextKind<TransportReading> {
  const problemsOf = (text: string): readonly TextProblem[] => {
    if (counts(text)) return parse(text).problems
    const end = Math.max(1, text.search(/[;\s]|$/))
    const message = `it does not begin with ${version};`
    return [{ kind: 'syntax', start: 0, end, message, wanted: `${version};`, advice: `begin with ${version};` }]
  }
  return {
    family,
    when: SCOPED,
    isAt({ tree }, owner) {
      let above = owner
      for (const label of labels) {
        if (tree.labelText(above) !== label) return false
        above = tree.parent(above)
      }
      return true
    },
    reading(zones, record, { records }) {
      const textOf = (each: RecordId): string => joined(zones.rdata(each))
      const text = textOf(record)
      const isMeant = (): boolean => meant.test(text.slice(0, 20)) && !records.some((each) => counts(textOf(each)))
      if (!counts(text) && !isMeant()) return undefined
      return { text, counts: counts(text), problems: problemsOf(text) }
    },
    subject: (owner) => owner,
    isSound: (text) => counts(text) && parse(text).problems.length === 0,
  }
}

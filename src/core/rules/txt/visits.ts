/** Texts that were pasted with what does not belong in them. */

import { entryParts } from '../../file/entry.ts'
import { GENERATED, type RecordId } from '../../model/zones.ts'
import { latin1Of, textOf } from '../../names/octets.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { quoted } from '../text.ts'

/** Visits the texts of sets with such a trait. */
export const onText = (when: number, visit: (record: RecordId, cx: Context) => void): Rule['visit'] => ({
  set: {
    [TYPE.TXT]: {
      when,
      visit(set, cx) {
        for (const record of set.records) visit(record, cx)
      },
    },
  },
})

/** The strings of a record in place of what was written, where that is one value after the other on one line. */
export function restating(cx: Context, record: RecordId, strings: readonly string[]): ReturnType<Context['rewriting']> {
  if (cx.zones.flags(record) & GENERATED) return undefined
  const source = cx.zones.source(record)
  const { values } = entryParts(cx.zones, record)
  if (values.length === 0) return undefined
  const [start, end] = [values[0]![0], values[values.length - 1]![1]]
  const between = values.slice(1).some(([from], i) => !/^[ \t]*$/.test(latin1Of(source.octets, values[i]![1], from)))
  return between ? undefined : { at: { source, start, end }, text: quoted(strings) }
}

export const utf8 = (latin1: string): string => textOf(Uint8Array.from(latin1, (sign) => sign.charCodeAt(0)))

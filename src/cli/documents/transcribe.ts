import { KINDS } from '../../core/transcribe/kinds.ts'
import { finding } from './findings.ts'
import { flag, format, list, type Printed, shape, text, whole, word } from './kinds.ts'

/** The line, from one, and of several texts the file. */
const stand = { line: whole(), file: text().optional() }
const set = shape({ ttl: whole(), records: list(text()) }).nullable()

/** `transcribe`. */
export const transcribe = shape({
  ...format,
  zone: text(),
  rows: list(
    shape({
      ...stand,
      type: text(),
      owner: text(),
      ttl: whole().nullable(),
      value: text(),
      kind: word(KINDS),
      certain: flag(),
      cleaned: list(text()),
    }),
  ),
  blanks: list(shape({ ...stand, text: text(), name: text() })),
  unread: list(shape({ ...stand, text: text(), why: text() })),
  questions: list(
    shape({
      about: text(),
      owner: text(),
      type: text(),
      choices: list(shape({ choice: text(), option: text().nullable() })),
    }),
  ),
  changes: list(shape({ owner: text(), type: text(), before: set, after: set })),
  conflicts: list(shape({ owner: text(), type: text(), why: text(), choices: list(text()).optional() })),
  notes: list(shape({ ...stand, text: text() })),
  findings: list(finding),
  written: flag(),
})
export type TranscribeDocument = Printed<typeof transcribe>

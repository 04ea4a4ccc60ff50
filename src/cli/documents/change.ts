import { finding } from './findings.ts'
import { flag, format, list, type Printed, shape, text, whole } from './kinds.ts'

const set = shape({ ttl: whole(), records: list(text()) }).nullable()
const serial = shape({ before: whole(), after: whole() }).nullable()

const one = {
  ...format,
  zone: text(),
  file: text(),
  included: list(text()),
  written: flag(),
  refused: flag(),
  unchanged: flag(),
  dryRun: flag(),
  sets: list(shape({ owner: text(), type: text(), before: set, after: set })),
  serial,
  backup: text().nullable(),
  added: list(finding),
  findings: list(finding),
  notes: list(text()),
  beside: shape({ path: text(), what: text(), written: flag() }).nullable(),
}
export const part = shape(one)
export type ChangePart = Printed<typeof part>

/** `write`, `remove`: with several zones, the others are in `also`. */
export const change = shape({ ...one, also: list(part).optional() })
export type ChangeDocument = Printed<typeof change>

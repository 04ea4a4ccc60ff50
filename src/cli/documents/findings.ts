import { SEVERITIES } from '../../core/rules/reports.ts'
import { counts, flag, format, list, type Printed, shape, text, whole, word } from './kinds.ts'

/** Fields of a finding, as docs/json.md has them. */
const fields = {
  rule: text(),
  severity: word(SEVERITIES),
  owner: text(),
  type: text().nullable(),
  zone: text(),
  file: text(),
  line: whole(),
  column: whole(),
  message: text(),
  effect: text(),
  fix: list(text()),
  fixable: flag(),
  source: text(),
}
export const finding = shape(fields)
export type FindingDocument = Printed<typeof finding>

export const check = shape({
  ...format,
  findings: list(finding),
  counts: counts(),
  excepted: list(shape({ ...fields, reason: text() })),
  unanswered: list(shape({ name: text(), type: text(), why: text() })),
})
export type CheckDocument = Printed<typeof check>

/** `check --fix`. */
export const fix = shape({
  ...format,
  written: flag(),
  fixed: list(finding),
  left: list(shape({ ...fields, why: text() })),
  backups: list(text()),
})
export type FixDocument = Printed<typeof fix>

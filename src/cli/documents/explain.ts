import { mixed } from 'yup'
import { SEVERITIES } from '../../core/rules/reports.ts'
import type { Example } from '../../core/rules/rule.ts'
import { flag, format, list, type Printed, shape, text, word } from './kinds.ts'

/** The text of a zone without its head, or several zones and what is known beside them. */
const example = mixed<Example>()
  .defined()
  .meta({ either: [{ type: ['string', 'object'] }] })

const rule = shape({
  code: text(),
  severity: word(SEVERITIES),
  live: flag(),
  source: text(),
  title: text(),
  why: text(),
  remedy: text(),
  silences: list(text()),
  bad: list(example),
  good: list(example),
})
export type RuleDocument = Printed<typeof rule>

export const explain = shape({ ...format, rules: list(rule) })

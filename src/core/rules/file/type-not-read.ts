import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileTypeNotRead: Rule = {
  code: 'file/type-not-read',
  severity: 'warning',
  source: 'RFC 3597 §5',
  title: 'record data of a type that can be read here in the generic form only',
  why: 'Few servers read such types in their own form, if any. The record is not checked, and is lost when its set is changed.',
  remedy: 'Write the data in the generic form: \\# LENGTH HEXADECIMAL.',
  bad: ['kiosk A6 0 2001:db8::10', 'kiosk TYPE65280 some data'],
  good: ['kiosk TYPE65280 \\# 2 0102'],
  visit: onProblem('type-not-read', (problem) => ({
    message: problem.message,
    effect: 'Servers that know the type read it; others refuse the file.',
    fix: [problem.wanted],
  })),
}

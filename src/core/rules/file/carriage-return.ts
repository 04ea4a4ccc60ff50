import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileCarriageReturn: Rule = {
  code: 'file/carriage-return',
  severity: 'advice',
  source: 'practice',
  title: 'lines that end in a carriage return and a newline',
  why: 'So some editors write them. Most servers pass the carriage returns over; some refuse the whole file.',
  remedy: 'Have the editor end lines in newlines alone, if your server refuses the file.',
  bad: ['www A 192.0.2.10\r\nkiosk A 192.0.2.11\r'],
  good: ['www A 192.0.2.10\nkiosk A 192.0.2.11'],
  visit: onProblem('carriage-return', (problem) => ({
    message: problem.message,
    effect: 'Some servers refuse the file.',
    fix: ['let lines end in newlines alone'],
  })),
}

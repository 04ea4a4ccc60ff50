import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileCarriageReturn: Rule = {
  code: 'file/carriage-return',
  severity: 'advice',
  source: 'practice',
  title: 'lines of a zone file that end in carriage return and newline',
  why: 'Some editors write lines this way. Most servers ignore the carriage returns; some refuse the whole file.',
  remedy: 'If your server refuses the file, save it with newlines alone.',
  bad: ['www A 192.0.2.10\r\nkiosk A 192.0.2.11\r'],
  good: ['www A 192.0.2.10\nkiosk A 192.0.2.11'],
  visit: onProblem('carriage-return', (problem) => ({
    message: problem.message,
    effect: 'Some servers refuse the file.',
    fix: ['save the file with newlines alone'],
  })),
}

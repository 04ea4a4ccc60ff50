import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileParenthesisFirst: Rule = {
  code: 'file/parenthesis-first',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'a parenthesis in front of the owner',
  why: 'A parenthesis lets an entry go on over the end of a line; the entry begins with its owner. Most servers refuse the whole file.',
  remedy: 'Write the owner first, and the parenthesis behind it.',
  bad: ['( kiosk A 192.0.2.30 )'],
  good: ['kiosk ( A 192.0.2.30 )'],
  visit: onProblem('parenthesis-first', (problem) => ({
    message: problem.message,
    effect: 'Most servers refuse the file.',
    fix: [`write ${problem.wanted}`],
  })),
}

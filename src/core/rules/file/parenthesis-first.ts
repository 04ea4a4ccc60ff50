import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileParenthesisFirst: Rule = {
  code: 'file/parenthesis-first',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'parenthesis in front of the owner name',
  why: 'A parenthesis lets an entry continue over the end of a line, but the entry begins with its owner. Most servers refuse the whole file.',
  remedy: 'Write the owner first, then the parenthesis.',
  bad: ['( kiosk A 192.0.2.30 )'],
  good: ['kiosk ( A 192.0.2.30 )'],
  visit: onProblem('parenthesis-first', (problem) => ({
    message: problem.message,
    effect: 'Most servers refuse the file.',
    fix: [`write ${problem.wanted}`],
  })),
}

import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileRelativeOrigin: Rule = {
  code: 'file/relative-origin',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: '$ORIGIN or $INCLUDE with an origin without its final dot',
  why: 'Some servers complete it with the current origin; others refuse the whole file.',
  remedy: 'Write the full name with its final dot.',
  bad: ['$ORIGIN lake\nkiosk A 192.0.2.30'],
  good: ['$ORIGIN lake.hollowmere.example.\nkiosk A 192.0.2.30'],
  visit: onProblem('relative-origin', (problem, source) => ({
    message: `${problem.message}: it is read as ${problem.wanted}`,
    effect: 'Some servers refuse the file.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.end }, text: problem.wanted },
  })),
}

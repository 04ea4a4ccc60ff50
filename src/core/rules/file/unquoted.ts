import type { Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

export const fileUnquoted: Rule = {
  code: 'file/unquoted',
  severity: 'error',
  source: 'RFC 7553 §4.4',
  title: 'URI target without quotes',
  why: 'The target of a URI record is written in quotes. Without them, some servers refuse the whole file.',
  remedy: 'Put quotes around the target.',
  bad: ['_ferrykiosk._tcp URI 10 1 https://kiosk.hollowmere.example/'],
  good: ['_ferrykiosk._tcp URI 10 1 "https://kiosk.hollowmere.example/"'],
  visit: onProblem('unquoted', (problem, source) => ({
    message: `${problem.message}: ${problem.value}`,
    effect: 'Some servers refuse the file.',
    fix: [`write ${problem.wanted}`],
    repair: /["\\]/.test(written(problem, source))
      ? undefined
      : { at: { source, start: problem.start, end: problem.end }, text: `"${written(problem, source)}"` },
  })),
}

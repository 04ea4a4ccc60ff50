import type { Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

export const nameOutOfZone: Rule = {
  code: 'name/out-of-zone',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'record whose owner is outside the zone',
  why: 'A server is asked for names of its zone only: it ignores the record, or refuses the file.',
  remedy:
    'Move the record to the file of the zone that the name belongs to. If the name was meant to be in this zone, remove its final dot.',
  bad: ['www.lakepass.example. A 192.0.2.10', 'hollowmere.example.hollowmere-freight.example. A 192.0.2.10'],
  good: ['www.hollowmere.example. A 192.0.2.10\nlakepass.example A 192.0.2.11'],
  visit: onProblem('out-of-zone', (problem, source) => ({
    message: problem.message,
    effect: 'Servers ignore the record, or refuse the file.',
    fix: [
      `move it to the file of its own zone; if ${written(problem, source).replace(/\.$/, '')} was meant to be in this zone, remove the final dot`,
    ],
  })),
}

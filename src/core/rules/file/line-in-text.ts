import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileLineInText: Rule = {
  code: 'file/line-in-text',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'a line that ends inside a text in quotes',
  why: 'The standard lets a text go on over the end of a line, and most servers refuse the whole file. Those that read it have the line’s end as part of the text, where it is seldom meant.',
  remedy:
    'Write the text on one line, or as several texts in quotes inside parentheses. A line’s end that is meant is written \\010.',
  bad: ['@ TXT "ferry-proof=\n41c2"'],
  good: ['@ TXT ( "ferry-proof="\n  "41c2" )', '@ HINFO "one" "two"'],
  visit: onProblem('line-in-text', (problem) => ({
    message: problem.message,
    effect: 'Most servers refuse the file; the others publish the line’s end as part of the text.',
    fix: [
      'close the quotes on their line, and go on with new ones inside parentheses',
      'or write \\010 where a line’s end is meant',
    ],
  })),
}

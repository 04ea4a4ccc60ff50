import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileLineInText: Rule = {
  code: 'file/line-in-text',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'quoted text that continues on the next line',
  why: 'The standard lets a text continue over the end of a line, but most servers refuse the whole file. Those that read it keep the line break as part of the text, which is rarely intended.',
  remedy:
    'Write the text on one line, or as several quoted strings inside parentheses. Write an intended line break as \\010.',
  bad: ['@ TXT "ferry-proof=\n41c2"'],
  good: ['@ TXT ( "ferry-proof="\n  "41c2" )', '@ HINFO "one" "two"'],
  visit: onProblem('line-in-text', (problem) => ({
    message: problem.message,
    effect: 'Most servers refuse the file; the others publish the line break as part of the text.',
    fix: [
      'close the quotes on the same line, and continue with new ones inside parentheses',
      'or write \\010 for an intended line break',
    ],
  })),
}

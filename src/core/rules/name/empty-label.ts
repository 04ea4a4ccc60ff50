import type { Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

export const nameEmptyLabel: Rule = {
  code: 'name/empty-label',
  severity: 'error',
  source: 'RFC 1035 §3.1',
  title: 'name with two dots in a row, or a dot at its beginning',
  why: 'Labels stand between dots, and only the root has an empty label. Servers refuse the file.',
  remedy: 'Remove the extra dot.',
  bad: ['www..lake A 192.0.2.10', 'www CNAME .site.northlight.example.', '@ MX 10 mail..larkpost.example.'],
  good: ['www.lake A 192.0.2.10', '@ MX 0 .\n@ TXT "v=spf1 -all"'],
  visit: onProblem('empty-label', (problem, source) => ({
    message: `${problem.value} has an empty label (two dots in a row, or a dot at the beginning)`,
    effect: 'Servers refuse the file.',
    fix: [
      `write ${written(problem, source)
        .replace(/^\.+/, '')
        .replace(/\.{2,}/g, '.')}`,
    ],
  })),
}

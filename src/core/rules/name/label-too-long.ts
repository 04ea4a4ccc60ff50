import type { Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

export const nameLabelTooLong: Rule = {
  code: 'name/label-too-long',
  severity: 'error',
  source: 'RFC 1035 §2.3.4',
  title: 'label of more than 63 octets',
  why: 'The length of a label has six bits. Servers refuse the file.',
  remedy: 'Shorten the label, or split it with a dot.',
  bad: [`${'a'.repeat(64)} A 192.0.2.10`, `www CNAME ${'a'.repeat(64)}.northlight.example.`],
  good: [`${'a'.repeat(63)} A 192.0.2.10`],
  visit: onProblem('label-too-long', (problem, source) => {
    const labels = written(problem, source).split('.')
    const long = labels.find((label) => label.length > 63) ?? labels[0]!
    return {
      message: `a label of ${problem.value} has ${long.length} octets (at most 63)`,
      effect: 'Servers refuse the file.',
      fix: ['shorten the label to 63 octets or fewer'],
    }
  }),
}

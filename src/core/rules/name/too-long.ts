import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const nameTooLong: Rule = {
  code: 'name/too-long',
  severity: 'error',
  source: 'RFC 1035 §2.3.4',
  title: 'name of more than 255 octets, including the zone’s name',
  why: 'A name has at most 255 octets. Servers refuse the file.',
  remedy:
    'Shorten the name. If it was written in full, add the final dot: without it, the zone’s name is appended once more.',
  bad: [`${`${'a'.repeat(60)}.`.repeat(4)}a A 192.0.2.10`, `www CNAME ${`${'a'.repeat(60)}.`.repeat(4)}a`],
  good: [`${`${'a'.repeat(55)}.`.repeat(4)}a A 192.0.2.10`],
  visit: onProblem('name-too-long', (problem) => ({
    message: problem.message,
    effect: 'A name has at most 255 octets. Servers refuse the file.',
    fix: ['shorten the name, or add the final dot if it is written in full'],
  })),
}

import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcPolicy: Rule = {
  code: 'dmarc/policy',
  severity: 'error',
  source: 'RFC 7489 §6.3, §6.6.3, §7.1; RFC 9091',
  title: 'a policy that is missing or none of the three',
  why: 'With a valid rua, receivers act as for p=none; without one, they ignore the record.',
  remedy: 'Write p=none, p=quarantine or p=reject.',
  bad: [
    policy(`v=DMARC1; ${RUA}`),
    policy(`v=DMARC1; p=block; ${RUA}`),
    policy('v=DMARC1'),
    policy(`v=DMARC1; p=reject; sp=all; ${RUA}`),
  ],
  good: [policy(`v=DMARC1; p=reject; sp=reject; np=reject; ${RUA}`), 'lakepass.example._report._dmarc TXT "v=DMARC1"'],
  visit: VISIT,
}

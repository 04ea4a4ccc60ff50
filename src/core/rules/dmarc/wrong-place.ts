import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcWrongPlace: Rule = {
  code: 'dmarc/wrong-place',
  severity: 'warning',
  source: 'RFC 7489 §6.1',
  title: 'a policy that does not stand at a _dmarc',
  why: 'Receivers look for _dmarc in front of the domain, and nowhere else.',
  remedy: 'Write it at _dmarc.',
  bad: [`@ TXT "v=DMARC1; p=none; ${RUA}"`, `dmarc TXT "v=DMARC1; p=none; ${RUA}"`],
  good: [
    policy(`v=DMARC1; p=none; ${RUA}`),
    '*._report._dmarc TXT "v=DMARC1"',
    `_dmarc CNAME policy\npolicy TXT "v=DMARC1; p=none; ${RUA}"`,
  ],
  visit: VISIT,
}

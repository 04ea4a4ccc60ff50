import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcNoReports: Rule = {
  code: 'dmarc/no-reports',
  severity: 'warning',
  source: 'RFC 7489 §6.3',
  title: 'a policy without an address for reports',
  why: 'Reports tell who sends in the domain’s name, and what of it passes. Without them, a stricter policy is a leap in the dark.',
  remedy: 'Add rua=mailto: and an address that somebody, or a service, reads.',
  bad: [policy('v=DMARC1; p=quarantine'), `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`],
  good: [policy(`v=DMARC1; p=quarantine; ${RUA}`)],
  visit: VISIT,
}

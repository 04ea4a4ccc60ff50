import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcMonitoringOnly: Rule = {
  code: 'dmarc/monitoring-only',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a policy that only watches',
  why: 'p=none asks for reports and changes nothing for mail. It is the first step, not the last.',
  remedy: 'When reports show that all your mail passes, take the next step: quarantine, then reject.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; ${RUA}`)],
  visit: VISIT,
}

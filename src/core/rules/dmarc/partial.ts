import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcPartial: Rule = {
  code: 'dmarc/partial',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a policy for a part of the mail only',
  why: 'pct is for trying a policy out. What is left over is delivered, and receivers that follow the newer rules do not look at it.',
  remedy: 'Take it out when the trial is over.',
  bad: [policy(`v=DMARC1; p=quarantine; pct=20; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; pct=100; ${RUA}`)],
  visit: VISIT,
}

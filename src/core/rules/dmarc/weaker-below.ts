import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcWeakerBelow: Rule = {
  code: 'dmarc/weaker-below',
  severity: 'warning',
  source: 'RFC 7489 §6.3',
  title: 'a weaker policy for the names below',
  why: 'Whoever forges mail takes a made-up name below the domain, which looks as good to people.',
  remedy: 'Take sp= (or np=) out: the domain’s own policy then counts for them.',
  bad: [policy(`v=DMARC1; p=reject; sp=none; ${RUA}`), policy(`v=DMARC1; p=reject; np=none; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; sp=reject; ${RUA}`)],
  visit: VISIT,
}

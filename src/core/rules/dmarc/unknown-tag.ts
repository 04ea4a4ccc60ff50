import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcUnknownTag: Rule = {
  code: 'dmarc/unknown-tag',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a tag that receivers do not know',
  why: 'They pass it over. It is often a mis-typed one that was meant to do something.',
  remedy: 'Write the tag that was meant, or take it out.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}; policy=reject`)],
  good: [policy(`v=DMARC1; p=none; ${RUA}; np=none; psd=n; t=n`)],
  visit: VISIT,
}

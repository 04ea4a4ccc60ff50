import type { Rule } from '../rule.ts'
import { GOOD, VISIT } from './visit.ts'

export const dkimRevoked: Rule = {
  code: 'dkim/revoked',
  severity: 'advice',
  source: 'RFC 6376 §3.6.1',
  title: 'a key that is revoked',
  why: 'An empty p= says that the key is no longer good. It may stand there on purpose, and can go when no mail signed with it is on its way.',
  remedy: 'Take the record out after a week.',
  bad: ['s1._domainkey TXT "v=DKIM1; p="'],
  good: [GOOD, '*._domainkey TXT "v=DKIM1; p="'],
  visit: VISIT,
}

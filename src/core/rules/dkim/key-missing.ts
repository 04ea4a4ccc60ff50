import type { Rule } from '../rule.ts'
import { GOOD, VISIT } from './visit.ts'

export const dkimKeyMissing: Rule = {
  code: 'dkim/key-missing',
  severity: 'error',
  source: 'RFC 6376 §3.6.1',
  title: 'a key record without p=',
  why: 'The key itself is the one thing that must be there.',
  remedy: 'Write p= and the public key in base64.',
  bad: ['s1._domainkey TXT "v=DKIM1; k=rsa"'],
  good: [GOOD],
  visit: VISIT,
}

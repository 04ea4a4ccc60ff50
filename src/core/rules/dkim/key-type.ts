import type { Rule } from '../rule.ts'
import { GOOD, TEST_KEY, VISIT } from './visit.ts'

export const dkimKeyType: Rule = {
  code: 'dkim/key-type',
  severity: 'warning',
  source: 'RFC 6376 §3.6.1, RFC 8463',
  title: 'a key type that verifiers do not know',
  why: 'Signatures with a key of an unknown type are passed over.',
  remedy: 'Write k=rsa or k=ed25519.',
  bad: [`s1._domainkey TXT "v=DKIM1; k=ecdsa; p=${TEST_KEY}"`],
  good: [GOOD],
  visit: VISIT,
}

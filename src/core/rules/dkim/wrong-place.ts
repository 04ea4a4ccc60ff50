import type { Rule } from '../rule.ts'
import { GOOD, TEST_KEY, VISIT } from './visit.ts'

export const dkimWrongPlace: Rule = {
  code: 'dkim/wrong-place',
  severity: 'warning',
  source: 'RFC 6376 §3.6.2.1',
  title: 'a key that is not at a selector below _domainkey',
  why: 'Verifiers build the name from the selector and the domain in the signature. A key anywhere else is not found.',
  remedy: 'Write it at SELECTOR._domainkey below the domain that signs.',
  bad: [
    `@ TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1.domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkeys TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
  ],
  good: [
    `march2005.reykjavik._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    GOOD,
    `s1._domainkey CNAME key\nkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    '_domainkey TXT "o=-"',
    '_adsp._domainkey TXT "dkim=all"',
  ],
  visit: VISIT,
}

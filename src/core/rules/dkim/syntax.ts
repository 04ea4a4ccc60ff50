import type { Rule } from '../rule.ts'
import { GOOD, TEST_KEY, VISIT } from './visit.ts'

export const dkimSyntax: Rule = {
  code: 'dkim/syntax',
  severity: 'error',
  source: 'RFC 6376 §3.2, §3.6.1',
  title: 'a key record that is no list of tags, or whose version is wrong',
  why: 'Verifiers that cannot read the record have no key: signed mail counts as not signed.',
  remedy: 'Write v=DKIM1; k=rsa; p=KEY, each tag once.',
  bad: [
    `s1._domainkey TXT "v=DKIM2; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey TXT "k=ed25519; v=DKIM1; p=${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; k=ed25519; k=ed25519; p=${TEST_KEY}"`,
  ],
  good: [GOOD, `s1._domainkey TXT "k=ed25519; p=${TEST_KEY};"`],
  visit: VISIT,
}

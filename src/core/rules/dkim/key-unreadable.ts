import type { Rule } from '../rule.ts'
import { GOOD, TEST_KEY, VISIT } from './visit.ts'

export const dkimKeyUnreadable: Rule = {
  code: 'dkim/key-unreadable',
  severity: 'error',
  source: 'RFC 6376 §3.6.1, RFC 8463 §4',
  title: 'a key that is no public key of its type',
  why: 'A key that was cut off by a form, or pasted with the lines of its PEM file, cannot be used.',
  remedy: 'Write the whole base64 of the public key, and nothing else.',
  bad: [
    's1._domainkey TXT "v=DKIM1; k=rsa; p=MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCB"',
    's1._domainkey TXT "v=DKIM1; k=rsa; p=-----BEGIN PUBLIC KEY-----"',
    `s1._domainkey TXT "v=DKIM1; k=ed25519; p=MCowBQYDK2VwAyEA${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; k=rsa; p=${TEST_KEY}"`,
  ],
  good: [GOOD],
  visit: VISIT,
}

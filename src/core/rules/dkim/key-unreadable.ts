import type { TextRule } from '../shared/text-rules.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimKeyUnreadable: TextRule<KeyReading> = {
  code: 'dkim/key-unreadable',
  severity: 'error',
  source: 'RFC 6376 §3.6.1, RFC 8463 §4',
  title: 'DKIM key record whose public key cannot be decoded',
  why: 'A key that was truncated by a web form, or pasted with the header lines of its PEM file, cannot be used.',
  remedy: 'Write the complete base64 of the public key and nothing else.',
  effect: 'Verifiers cannot use it: signatures with this selector fail.',
  bad: [
    's1._domainkey TXT "v=DKIM1; k=rsa; p=MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCB"',
    's1._domainkey TXT "v=DKIM1; k=rsa; p=-----BEGIN PUBLIC KEY-----"',
    `s1._domainkey TXT "v=DKIM1; k=ed25519; p=MCowBQYDK2VwAyEA${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; k=rsa; p=${TEST_KEY}"`,
  ],
  good: [GOOD],
}

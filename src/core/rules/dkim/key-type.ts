import type { TextRule } from '../shared/text-rules.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimKeyType: TextRule<KeyReading> = {
  code: 'dkim/key-type',
  severity: 'warning',
  source: 'RFC 6376 §3.6.1, RFC 8463',
  title: 'DKIM key record with an unknown key type',
  why: 'Verifiers ignore signatures made with a key of an unknown type.',
  remedy: 'Write k=rsa or k=ed25519.',
  effect: 'Verifiers that do not know it ignore signatures with this selector.',
  bad: [`s1._domainkey TXT "v=DKIM1; k=ecdsa; p=${TEST_KEY}"`],
  good: [GOOD],
}

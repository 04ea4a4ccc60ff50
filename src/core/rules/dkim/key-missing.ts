import type { TextRule } from '../shared/text-rules.ts'
import { GOOD } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimKeyMissing: TextRule<KeyReading> = {
  code: 'dkim/key-missing',
  severity: 'error',
  source: 'RFC 6376 §3.6.1',
  title: 'a key record without p=',
  why: 'The key itself is the one thing that must be there.',
  remedy: 'Write p= and the public key in base64.',
  effect: 'Verifiers find no key: signatures with this selector fail.',
  bad: ['s1._domainkey TXT "v=DKIM1; k=rsa"'],
  good: [GOOD],
}

import type { TextRule } from '../shared/text-rules.ts'
import { GOOD } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimKeyMissing: TextRule<KeyReading> = {
  code: 'dkim/key-missing',
  severity: 'error',
  source: 'RFC 6376 §3.6.1',
  title: 'DKIM key record without p=',
  why: 'The public key is the one tag that a key record cannot do without.',
  remedy: 'Write p= and the public key in base64.',
  effect: 'Verifiers find no key: signatures with this selector fail.',
  bad: ['s1._domainkey TXT "v=DKIM1; k=rsa"'],
  good: [GOOD],
}

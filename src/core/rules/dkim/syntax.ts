import type { TextRule } from '../shared/text-rules.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimSyntax: TextRule<KeyReading> = {
  code: 'dkim/syntax',
  severity: 'error',
  source: 'RFC 6376 §3.2, §3.6.1',
  title: 'malformed DKIM key record',
  why: 'Verifiers that cannot parse the record have no key: signed mail counts as unsigned.',
  remedy: 'Write v=DKIM1; k=rsa; p=KEY, with each tag once.',
  effect: 'Verifiers cannot parse it: signatures with this selector fail.',
  bad: [
    `s1._domainkey TXT "v=DKIM2; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey TXT "k=ed25519; v=DKIM1; p=${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; k=ed25519; k=ed25519; p=${TEST_KEY}"`,
  ],
  good: [GOOD, `s1._domainkey TXT "k=ed25519; p=${TEST_KEY};"`],
}

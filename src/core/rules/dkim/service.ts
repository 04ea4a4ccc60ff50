import type { TextRule } from '../shared/text-rules.ts'
import { TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimService: TextRule<KeyReading> = {
  code: 'dkim/service',
  severity: 'warning',
  source: 'RFC 6376 §3.6.1',
  title: 'DKIM key record whose s= does not include email',
  why: 'The key is for another service, and signatures of mail with it fail.',
  remedy: 'Remove s=.',
  effect: 'The key is not for mail: signatures with this selector fail.',
  bad: [`s1._domainkey TXT "v=DKIM1; s=chat; k=ed25519; p=${TEST_KEY}"`],
  good: [
    `s1._domainkey TXT "v=DKIM1; s=email; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; s=*; k=ed25519; p=${TEST_KEY}"`,
  ],
}

import type { TextRule } from '../shared/text-rules.ts'
import { TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimTesting: TextRule<KeyReading> = {
  code: 'dkim/testing',
  severity: 'advice',
  source: 'RFC 6376 §3.6.1',
  title: 'DKIM key record left in testing mode (t=y)',
  why: 't=y says that the domain is only testing DKIM: verifiers may treat its mail as unsigned.',
  remedy: 'Remove t=y once signatures verify.',
  effect: 'Verifiers may treat signed mail as unsigned.',
  bad: [`s1._domainkey TXT "v=DKIM1; t=y; k=ed25519; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1; t=s; k=ed25519; p=${TEST_KEY}"`],
}

import type { TextRule } from '../shared/text-rules.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimObsoleteTag: TextRule<KeyReading> = {
  code: 'dkim/obsolete-tag',
  severity: 'advice',
  source: 'RFC 6376, which took it out of RFC 4871',
  title: 'the tag g=',
  why: 'It is no part of the standard any more. Old verifiers take an empty g= to mean that nobody may sign.',
  remedy: 'Take it out.',
  effect: 'Verifiers pass it over.',
  bad: [`s1._domainkey TXT "v=DKIM1; g=*; k=ed25519; p=${TEST_KEY}"`],
  good: [GOOD],
}

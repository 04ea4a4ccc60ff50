import type { TextRule } from '../shared/text-rules.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimObsoleteTag: TextRule<KeyReading> = {
  code: 'dkim/obsolete-tag',
  severity: 'advice',
  source: 'RFC 6376, which took it out of RFC 4871',
  title: 'DKIM key record with the obsolete tag g=',
  why: 'g= is no longer part of the standard. Old verifiers take an empty g= to mean that no address may sign.',
  remedy: 'Remove it.',
  effect: 'Verifiers ignore it.',
  bad: [`s1._domainkey TXT "v=DKIM1; g=*; k=ed25519; p=${TEST_KEY}"`],
  good: [GOOD],
}

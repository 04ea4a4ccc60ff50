import type { Rule } from '../rule.ts'
import { GOOD, TEST_KEY, VISIT } from './visit.ts'

export const dkimObsoleteTag: Rule = {
  code: 'dkim/obsolete-tag',
  severity: 'advice',
  source: 'RFC 6376, which took it out of RFC 4871',
  title: 'the tag g=',
  why: 'It is no part of the standard any more. Old verifiers take an empty g= to mean that nobody may sign.',
  remedy: 'Take it out.',
  bad: [`s1._domainkey TXT "v=DKIM1; g=*; k=ed25519; p=${TEST_KEY}"`],
  good: [GOOD],
  visit: VISIT,
}

import type { Rule } from '../rule.ts'
import { TEST_KEY, VISIT } from './visit.ts'

export const dkimTesting: Rule = {
  code: 'dkim/testing',
  severity: 'advice',
  source: 'RFC 6376 §3.6.1',
  title: 't=y was left on',
  why: 'It says that the domain is only trying DKIM out: verifiers may treat its mail as if it were not signed.',
  remedy: 'Take it out once signatures verify.',
  bad: [`s1._domainkey TXT "v=DKIM1; t=y; k=ed25519; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1; t=s; k=ed25519; p=${TEST_KEY}"`],
  visit: VISIT,
}

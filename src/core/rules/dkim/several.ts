import type { Rule } from '../rule.ts'
import { GOOD, OTHER_KEY, VISIT } from './visit.ts'

export const dkimSeveral: Rule = {
  code: 'dkim/several',
  severity: 'error',
  source: 'RFC 6376 §3.6.2.2',
  title: 'more than one text at a selector',
  why: 'What verifiers do with several is not defined: some take the first that comes, some none.',
  remedy: 'Keep one; another key needs another selector.',
  bad: [`${GOOD}\ns1._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`],
  good: [`${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`],
  visit: VISIT,
}

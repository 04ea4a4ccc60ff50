import type { Rule } from '../rule.ts'
import { TEST_KEY, VISIT } from './visit.ts'

export const dkimEscapedSemicolon: Rule = {
  code: 'dkim/escaped-semicolon',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'a backslash before a semicolon in the published key',
  why: 'A form that needs no escapes was given a value with them. In a zone file \\; is just a semicolon; here the backslash itself is published.',
  remedy: 'Write semicolons alone.',
  bad: [`s1._domainkey TXT "v=DKIM1\\\\; k=ed25519\\\\; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1\\; k=ed25519\\; p=${TEST_KEY}"`],
  visit: VISIT,
}

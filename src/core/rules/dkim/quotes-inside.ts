import type { Rule } from '../rule.ts'
import { TEST_KEY, VISIT } from './visit.ts'

export const dkimQuotesInside: Rule = {
  code: 'dkim/quotes-inside',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'quotes in the published key',
  why: 'The value was pasted with its quotes, or in two quoted pieces, into a form that quotes by itself. The quotes are then part of the key.',
  remedy: 'Write the value without quotes inside.',
  silences: ['txt/stray-quotes'],
  bad: [`s1._domainkey TXT "\\"v=DKIM1; k=ed25519; p=${TEST_KEY}\\""`],
  good: [`s1._domainkey TXT "v=DKIM1; k=ed25519; " "p=${TEST_KEY}"`],
  visit: VISIT,
}

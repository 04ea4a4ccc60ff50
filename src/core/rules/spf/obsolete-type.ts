import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfObsoleteType: Rule = {
  code: 'spf/obsolete-type',
  severity: 'warning',
  source: 'RFC 7208 §3.1',
  title: 'a record of the type SPF (99)',
  why: 'The type was given up: receivers ask for TXT alone. Two records that drift apart confuse whoever looks after them.',
  remedy: 'Keep the TXT record, and take the other out.',
  bad: ['@ SPF "v=spf1 mx -all"', '@ SPF "v=spf1 mx -all"\n@ TXT "v=spf1 mx -all"'],
  good: ['@ TXT "v=spf1 mx -all"'],
  visit: VISIT,
}

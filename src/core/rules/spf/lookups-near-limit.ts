import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfLookupsNearLimit: Rule = {
  code: 'spf/lookups-near-limit',
  severity: 'advice',
  source: 'RFC 7208 §4.6.4',
  title: 'a record that needs eight lookups or more of ten',
  why: 'A service that adds an include to its own record uses up yours, and nobody tells you.',
  remedy: 'Make room before it is needed.',
  bad: [`@ TXT "v=spf1 ${Array.from({ length: 8 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  good: [`@ TXT "v=spf1 ${Array.from({ length: 7 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  visit: VISIT,
}

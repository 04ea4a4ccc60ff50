import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfLong: Rule = {
  code: 'spf/long',
  severity: 'advice',
  source: 'RFC 7208 §3.4',
  title: 'an answer with the SPF record that passes 512 octets',
  why: 'All texts of a name come in one answer. Over 512 octets it needs EDNS or TCP, which not every path lets through.',
  remedy: 'Move proofs and other texts elsewhere, or ranges into a record of their own that is included.',
  bad: [
    `@ TXT "v=spf1 mx -all"\n@ TXT "${'ferry-proof='.padEnd(240, 'a')}"\n@ TXT "${'ferry-proof='.padEnd(240, 'b')}"`,
  ],
  good: [`@ TXT "v=spf1 mx -all"\n@ TXT "${'ferry-proof='.padEnd(240, 'a')}"`],
  visit: VISIT,
}

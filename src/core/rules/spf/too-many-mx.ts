import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfTooManyMx: Rule = {
  code: 'spf/too-many-mx',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'an mx term on a domain with more than ten exchanges',
  why: 'Receivers ask for the addresses of ten, and give up on the record at the eleventh.',
  remedy: 'List ranges in its place.',
  bad: [
    `@ TXT "v=spf1 mx -all"\n${Array.from({ length: 11 }, (_, i) => `@ MX ${i} m${i}.larkpost.example.`).join('\n')}`,
  ],
  good: [
    `@ TXT "v=spf1 mx -all"\n${Array.from({ length: 10 }, (_, i) => `@ MX ${i} m${i}.larkpost.example.`).join('\n')}`,
  ],
  visit: VISIT,
}

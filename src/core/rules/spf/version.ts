import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfVersion: Rule = {
  code: 'spf/version',
  severity: 'error',
  source: 'RFC 7208 §4.5',
  title: 'a text that was meant to be an SPF record, and is none by its first word',
  why: 'Receivers look for “v=spf1” and a space behind it. Anything else is another text: the domain has no SPF record.',
  remedy: 'Begin with v=spf1 and a space.',
  bad: [
    '@ TXT "v=spf1; mx -all"',
    '@ TXT "spf1 mx -all"',
    '@ TXT "v=spf2 mx -all"',
    '@ TXT "v=spf1:mx -all"',
    '@ TXT "spf2.0/pra mx -all"\n@ TXT "v=spf1 mx -all"',
  ],
  good: ['@ TXT "v=spf1 mx -all"', '@ TXT "V=SPF1 -all"', '@ TXT "spfx is a ferry"'],
  visit: VISIT,
}

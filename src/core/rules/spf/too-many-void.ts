import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfTooManyVoid: Rule = {
  code: 'spf/too-many-void',
  severity: 'warning',
  source: 'RFC 7208 §4.6.4',
  title: 'more than two terms that find nothing',
  why: 'Receivers give up at the third; some count terms, others each question, so that every exchange of an mx without an address counts. Hosts without IPv6 count as nothing for a sender with IPv6, and the other way round.',
  remedy: 'Write addresses in the place of such terms.',
  bad: [
    '@ TXT "v=spf1 a:one.hollowmere.example a:two.hollowmere.example a:three.hollowmere.example -all"\none A 192.0.2.1\ntwo A 192.0.2.2\nthree A 192.0.2.3',
    '@ TXT "v=spf1 mx -all"\n@ MX 1 one\n@ MX 2 two\n@ MX 3 three\none A 192.0.2.1\ntwo A 192.0.2.2\nthree A 192.0.2.3',
  ],
  good: [
    '@ TXT "v=spf1 a:one.hollowmere.example a:two.hollowmere.example a:x.larkpost.example -all"\none A 192.0.2.1\ntwo A 192.0.2.2',
  ],
  visit: VISIT,
}

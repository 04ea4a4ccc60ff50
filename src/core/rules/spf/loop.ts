import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfLoop: Rule = {
  code: 'spf/loop',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'a chain of includes or redirects that leads back',
  why: 'Receivers follow it until the tenth lookup, and give up on the record.',
  remedy: 'Take the term out that closes the circle.',
  silences: ['spf/too-many-lookups', 'spf/lookups-near-limit'],
  bad: ['@ TXT "v=spf1 include:hollowmere.example -all"'],
  good: [
    '@ TXT "v=spf1 include:_one.hollowmere.example include:_two.hollowmere.example -all"\n_one TXT "v=spf1 ip4:192.0.2.25"\n_two TXT "v=spf1 include:_one.hollowmere.example"',
  ],
  visit: VISIT,
}

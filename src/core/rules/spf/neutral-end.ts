import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfNeutralEnd: Rule = {
  code: 'spf/neutral-end',
  severity: 'warning',
  source: 'RFC 7208 §4.7',
  title: 'a record that says nothing of everybody else',
  why: 'With ?all, or with neither “all” nor redirect, a sender that is not listed is neutral: as if there were no record.',
  remedy: 'End with ~all; or with -all where nothing else sends.',
  bad: ['mx ?all', 'mx', 'include:_spf.larkpost.example'].map(bare),
  good: [
    '@ TXT "v=spf1 mx ~all"',
    '_spf TXT "v=spf1 ip4:192.0.2.25 ?all"',
    '@ TXT "v=spf1 include:spf.hollowmere.example -all"\nspf TXT "v=spf1 ip4:192.0.2.25"',
    '@ TXT "v=spf1 redirect=_spf.larkpost.example"',
  ],
  visit: VISIT,
}

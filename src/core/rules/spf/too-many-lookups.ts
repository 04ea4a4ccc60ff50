import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfTooManyLookups: Rule = {
  code: 'spf/too-many-lookups',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'a record that needs more than ten lookups, its includes counted',
  why: 'Each include, a, mx, ptr, exists and redirect costs one, in included records too. Receivers stop at the eleventh and give up on the record: mail fails although its sender is listed.',
  remedy:
    'Take out senders that are not used any more; write addresses in the place of names; send newsletters from a name below the domain.',
  bad: [
    `@ TXT "v=spf1 ${Array.from({ length: 11 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`,
    `@ TXT "v=spf1 mx a include:_spf.hollowmere.example -all"\n@ MX 10 mx.larkpost.example.\n@ A 192.0.2.10\n_spf TXT "v=spf1 ${Array.from({ length: 8 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`,
  ],
  good: [`@ TXT "v=spf1 ${Array.from({ length: 10 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  visit: VISIT,
}

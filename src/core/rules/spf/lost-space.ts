import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfLostSpace: Rule = {
  code: 'spf/lost-space',
  severity: 'error',
  source: 'RFC 7208 §3.3',
  title: 'two strings that join two terms',
  why: 'Strings are joined without anything between them. A record that was cut between two terms needs its space at the end of the first string or the beginning of the second.',
  remedy: 'Put the space inside the quotes.',
  silences: ['spf/syntax', 'spf/neutral-end', 'spf/include-without-record'],
  bad: [
    '@ TXT "v=spf1 include:_spf.larkpost.example" "include:_spf.quillwing.example -all"',
    '@ TXT "v=spf1 include:_spf.larkpost.example" "-all"',
    '@ TXT "v=spf1 ip4:192.0.2.25" "mx -all"',
  ],
  good: [
    '@ TXT "v=spf1 include:_spf.larkpost.example" " include:_spf.quillwing.example -all"',
    '@ TXT "v=spf1 include:_spf.lark" "post.example -all"',
    '@ TXT "v=spf1 inc" "lude:_spf.larkpost.example -all"',
  ],
  visit: VISIT,
}

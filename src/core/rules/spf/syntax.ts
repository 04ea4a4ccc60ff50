import { GIVES_UP, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfSyntax: TextRule<SpfReading> = {
  code: 'spf/syntax',
  severity: 'error',
  source: 'RFC 7208 §4.6.1, §7, §12',
  title: 'invalid SPF term',
  why: 'One error anywhere makes receivers give up on the whole record, even for senders listed before it.',
  remedy: 'Correct the term that the finding points at.',
  effect: GIVES_UP,
  bad: [
    'ip4:192.0.2.300 -all',
    'mx moo -all',
    'a:192.0.2.25 -all',
    'ip4:192.0.2.0/33 -all',
    'include: -all',
    'exists:%{x}.hollowmere.example -all',
  ].map(bare),
  good: ['mx a:out.larkpost.example ip4:192.0.2.0/24 ip6:2001:db8::/32 exists:%{ir}._list.larkpost.example -all'].map(
    bare,
  ),
}

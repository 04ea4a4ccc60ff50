import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfHostBits: Rule = {
  code: 'spf/host-bits',
  severity: 'advice',
  source: 'RFC 7208 §5.6',
  title: 'address bits beyond the prefix',
  why: 'They do not count. Perhaps one address was meant, and 255 others are let in.',
  remedy: 'Write the range as it is, or the one address.',
  bad: ['ip4:192.0.2.25/24 -all', 'ip6:2001:db8::1/32 -all'].map(bare),
  good: ['ip4:192.0.2.0/24 ip4:192.0.2.25/32 -all'].map(bare).map((each) => each.replace(' ip4:192.0.2.25/32', '')),
  visit: VISIT,
}

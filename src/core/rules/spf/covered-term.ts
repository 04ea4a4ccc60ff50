import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfCoveredTerm: Rule = {
  code: 'spf/covered-term',
  severity: 'advice',
  source: 'practice',
  title: 'an address or a range inside a range of the record',
  why: 'It says nothing new, and makes the record long.',
  remedy: 'Take it out.',
  bad: ['ip4:192.0.2.0/24 ip4:192.0.2.25 -all', 'ip6:2001:db8::/48 ip6:2001:db8::/32 -all'].map(bare),
  good: ['ip4:192.0.2.0/25 ip4:192.0.2.200 -all', '-ip4:192.0.2.25 ip4:192.0.2.0/24 -all'].map(bare),
  visit: VISIT,
}

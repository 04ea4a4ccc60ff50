import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfAllowsEveryone: Rule = {
  code: 'spf/allows-everyone',
  severity: 'error',
  source: 'practice',
  title: 'a record that lets (almost) everybody send',
  why: 'Mail from anywhere passes. It is worse than no record: forged mail comes with a pass.',
  remedy: 'End with ~all or -all, and list the hosts that send.',
  bad: [
    'mx +all',
    'mx all',
    'ip4:0.0.0.0/0 -all',
    'ip4:0.0.0.0/1 ip4:128.0.0.0/1 -all',
    'a/0 -all',
    'ip6:2000::/3 -all',
  ].map((each) => `${bare(each)}\n@ A 192.0.2.10\n@ AAAA 2001:db8::10`),
  good: ['-all', 'ip4:192.0.2.0/24 ~all', '-ip4:0.0.0.0/0 ip6:2001:db8::/32 -all'].map(bare),
  visit: VISIT,
}

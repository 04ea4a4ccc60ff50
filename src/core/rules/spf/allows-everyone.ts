import { shareAllowed, withEnd } from '../../mail/spf/merge.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfAllowsEveryone: TextRule<SpfReading> = {
  code: 'spf/allows-everyone',
  severity: 'error',
  source: 'practice',
  title: 'SPF record that allows (almost) everyone to send',
  why: 'Mail from anywhere passes. This is worse than no record: forged mail gets a pass.',
  remedy: 'End with ~all or -all, and list the hosts that send.',
  effect: 'Anyone can send in the domain’s name and passes.',
  bad: [
    'mx +all',
    'mx all',
    'ip4:0.0.0.0/0 -all',
    'ip4:0.0.0.0/1 ip4:128.0.0.0/1 -all',
    'a/0 -all',
    'ip6:2000::/3 -all',
  ].map((each) => `${bare(each)}\n@ A 192.0.2.10\n@ AAAA 2001:db8::10`),
  good: ['-all', 'ip4:192.0.2.0/24 ~all', '-ip4:0.0.0.0/0 ip6:2001:db8::/32 -all'].map(bare),
  *inText({ text, record }) {
    if (!record) return
    const { all, mechanisms } = record
    if (all?.qualifier === '+') {
      yield {
        ...placeOf(all),
        message: `${all.text} allows every host on the Internet to send`,
        whole: withEnd(text, '~'),
      }
      return
    }
    const wide = mechanisms.find(
      ({ qualifier, name, bits4, bits6, network }) =>
        qualifier === '+' &&
        (name === 'a' || name === 'mx' || network) &&
        (network?.length === 16 ? bits6 <= 3 : bits4 <= 1 || (!network && bits6 <= 3)),
    )
    const family = wide
      ? 'a family'
      : shareAllowed(mechanisms, 4) >= 0.5
        ? 'IPv4'
        : shareAllowed(mechanisms, 16) >= 0.125
          ? 'IPv6'
          : undefined
    if (family)
      yield {
        ...(wide ? placeOf(wide) : { start: 0, end: text.length }),
        message: `${wide ? wide.text : `the ranges together`} allow${wide ? 's' : ''} (almost) every ${family} address to send`,
        advice: 'list the hosts that send',
      }
  },
}

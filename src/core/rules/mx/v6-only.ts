import { TYPE } from '../../records/types.ts'
import { hostAddresses } from '../look.ts'
import type { Rule } from '../rule.ts'
import { V6_TARGET } from '../traits.ts'
import { exchanges, onMx } from './visits.ts'

export const mxV6Only: Rule = {
  code: 'mx/v6-only',
  severity: 'advice',
  source: 'practice',
  title: 'MX hosts that are reachable over IPv6 only',
  why: 'Many senders have IPv4 only: their mail is delayed and then bounces.',
  remedy: 'Give at least one MX host an IPv4 address.',
  bad: ['@ MX 10 mail\nmail AAAA 2001:db8::25'],
  good: [
    '@ MX 10 mail\nmail AAAA 2001:db8::25\nmail A 192.0.2.25',
    '@ MX 10 mail\n@ MX 20 mx.larkpost.example.\nmail AAAA 2001:db8::25',
  ],
  visit: onMx(V6_TARGET, (set, cx) => {
    const hosts = exchanges(cx.zones, set).map(
      (record) => hostAddresses(cx.zones, cx.zones.target(record))?.records ?? [],
    )
    if (
      hosts.length === 0 ||
      hosts.some((records) => records.length === 0 || records.some((record) => cx.zones.type(record) === TYPE.A))
    )
      return
    cx.report({
      record: set.records[0],
      part: 1,
      message: `all MX hosts of ${cx.name(set.owner)} have IPv6 addresses only`,
      effect: 'Senders without IPv6 cannot deliver.',
      fix: [`${cx.name(cx.zones.target(set.records[0]!))} A ADDRESS`],
    })
  }),
}

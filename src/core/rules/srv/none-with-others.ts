import type { Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'
import { isNone, onSrv } from './visits.ts'

export const srvNoneWithOthers: Rule = {
  code: 'srv/none-with-others',
  severity: 'warning',
  source: 'RFC 2782',
  title: 'SRV target “.” (not offered) next to other targets',
  why: '“.” says that the service is not offered at all; the other record says where it is. Clients differ in which one they follow.',
  remedy: 'Keep one of the two statements.',
  bad: ['_xmpp-client._tcp SRV 0 0 0 .\n_xmpp-client._tcp SRV 5 0 5222 chat\nchat A 192.0.2.30'],
  good: ['_xmpp-client._tcp SRV 0 0 0 .'],
  visit: onSrv(SEVERAL, (set, cx) => {
    const none = set.records.find((record) => isNone(cx.zones, record))
    const other = set.records.find((record) => !isNone(cx.zones, record))
    if (none === undefined || other === undefined) return
    cx.report({
      record: none,
      part: 3,
      message: `${cx.name(set.owner)} says that the service is not offered, but also has ${cx.record(other)} (${cx.where(other, none)})`,
      effect: 'Some clients find the service, others are told that there is none.',
      fix: [`remove ${cx.name(set.owner)} ${cx.record(none)}`, `or keep it alone`],
    })
  }),
}

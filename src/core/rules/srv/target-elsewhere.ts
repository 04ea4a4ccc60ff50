import type { Zones } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { hostAddresses } from '../look.ts'
import type { Rule } from '../rule.ts'
import { SERVED_ELSEWHERE } from '../traits.ts'
import { isNone, onSrv, serviceOf } from './visits.ts'

export const srvTargetElsewhere: Rule = {
  code: 'srv/target-elsewhere',
  severity: 'advice',
  source: 'practice',
  title: 'SRV record below one host’s name whose target is another host',
  why: 'Clients look up the service at the name that people type. Few people type a host’s name, and it is unusual that another host serves it. Often the domain itself was meant as the owner.',
  remedy: 'Move the record to the domain that people type, or point it at the host in its owner.',
  bad: ['_xmpp-client._tcp.chat SRV 5 0 5222 talk\nchat A 192.0.2.30\ntalk A 192.0.2.31'],
  good: [
    '_xmpp-client._tcp SRV 5 0 5222 talk\ntalk A 192.0.2.31',
    '_xmpp-client._tcp.chat SRV 5 0 5222 chat\nchat A 192.0.2.30',
    '_xmpp-client._tcp.crew SRV 5 0 5222 talk\ntalk A 192.0.2.31',
  ],
  visit: onSrv(SERVED_ELSEWHERE, (set, cx) => {
    const { zones } = cx
    const { tree } = zones
    if (serviceOf(set, cx) === undefined) return
    const host: NameId = tree.parent(tree.parent(set.owner))
    if (host <= set.zone.apex || !tree.isAtOrBelow(host, set.zone.apex) || tree.isWildcard(host)) return
    // A name that takes mail is a domain that people type.
    if ((!zones.has(host, TYPE.A) && !zones.has(host, TYPE.AAAA)) || zones.has(host, TYPE.MX)) return
    const record = set.records[0]!
    if (
      set.records.some(
        (each) => isNone(zones, each) || zones.target(each) === host || tree.isAtOrBelow(zones.target(each), host),
      )
    )
      return
    if (
      set.records.some((each) => zones.zoneOf(zones.target(each)) !== set.zone || zones.target(each) === set.zone.apex)
    )
      return
    if (shareAddress(zones, host, zones.target(record))) return
    cx.report({
      record,
      part: 'owner',
      message: `the service is below the host ${cx.name(host)}, but its target is another host, ${cx.name(zones.target(record))}`,
      effect: `Only people who type ${cx.name(host)} find it.`,
      fix: [
        `${tree.labelText(set.owner)}.${tree.labelText(tree.parent(set.owner))}.${set.zone.name} ${cx.record(record)}`,
        'or leave it',
      ],
    })
  }),
}

function shareAddress(zones: Zones, one: NameId, other: NameId): boolean {
  const texts = new Set(hostAddresses(zones, one)?.records.map((record) => zones.rdataText(record)))
  return hostAddresses(zones, other)?.records.some((record) => texts.has(zones.rdataText(record))) ?? false
}

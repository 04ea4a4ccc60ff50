import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { PARENT_CHILD, TWO, TWO_BELOW } from '../shared/delegation-examples.ts'
import { delegationOf } from './delegations.ts'

export const nsTtlDiffers: Rule = {
  code: 'ns/ttl-differs',
  severity: 'advice',
  source: 'RFC 1034 §4.2.2',
  title: 'delegation whose NS TTL differs between parent and child',
  why: 'Resolvers cache the list for one time or the other, depending on which they saw last. Before you move the name servers, count the longer one.',
  remedy: 'Give both the same TTL, or remember the longer one.',
  bad: [PARENT_CHILD('isle 86400 NS ns1.upland-dns.example.\nisle 86400 NS ns2.upland-dns.example.', TWO_BELOW)],
  good: [PARENT_CHILD(TWO, TWO_BELOW)],
  visit: {
    zone(zone, cx) {
      for (const { child, records } of delegationOf(cx, zone)) {
        const own = cx.zones.records(child.apex, TYPE.NS, child.index)
        if (own.length === 0 || records.length === 0 || cx.zones.ttl(own[0]!) === cx.zones.ttl(records[0]!)) continue
        cx.report({
          record: records[0],
          part: 'type',
          message: `NS of ${child.name} has TTL ${cx.zones.ttl(records[0]!)} here but ${cx.zones.ttl(own[0]!)} in the zone itself (${cx.where(own[0]!, records[0])})`,
          effect: 'After a change, some resolvers use the old servers longer than others.',
          fix: records.map((record) => `${child.name} ${cx.zones.ttl(own[0]!)} ${cx.record(record)}`),
        })
      }
    },
  },
}

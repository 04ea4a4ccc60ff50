import type { RecordId, Zones } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { PARENT_CHILD, TWO, TWO_BELOW } from '../shared/delegation-examples.ts'
import { delegationOf } from './delegations.ts'

const targetsOf = (zones: Zones, records: readonly RecordId[]): Set<NameId> =>
  new Set(records.map((record) => zones.target(record)))

function dataKeys(zones: Zones, records: readonly RecordId[]): string {
  return [
    ...new Set(records.map((record) => `${zones.type(record)} ${rdataKey(zones.type(record), zones.rdata(record))}`)),
  ]
    .sort()
    .join('\n')
}

export const nsChildDiffers: Rule = {
  code: 'ns/child-differs',
  severity: 'warning',
  source: 'RFC 1034 §4.2.2',
  title: 'delegation that differs from the child zone’s own NS records or addresses',
  why: 'Resolvers start with the parent’s list and switch to the child’s. Where the two differ, some queries go to servers that do not have the zone, and fail now and then.',
  remedy: 'Give both zones the same NS set and the same addresses.',
  bad: [
    PARENT_CHILD(TWO, '@ NS ns1.upland-dns.example.\n@ NS ns3.upland-dns.example.'),
    PARENT_CHILD('isle NS ns1.larkpost.example.\nisle NS ns2.larkpost.example.', TWO_BELOW),
    PARENT_CHILD(
      'isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.66',
      '@ NS ns1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53',
    ),
  ],
  good: [
    PARENT_CHILD(TWO, TWO_BELOW),
    PARENT_CHILD(
      'isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53',
      '@ NS NS1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53',
    ),
  ],
  visit: {
    zone(zone, cx) {
      const { zones } = cx
      for (const { child, records } of delegationOf(cx, zone)) {
        const own = zones.records(child.apex, TYPE.NS, child.index)
        if (own.length === 0 || records.length === 0) continue
        const above = targetsOf(zones, records)
        const below = targetsOf(zones, own)
        const onlyAbove = [...above].filter((name) => !below.has(name)).map(cx.name)
        const onlyBelow = [...below].filter((name) => !above.has(name)).map(cx.name)
        if (onlyAbove.length + onlyBelow.length > 0) {
          const nothing = onlyAbove.length === above.size
          const parts = [
            onlyAbove.length > 0 && `only here: ${listed(onlyAbove)}`,
            onlyBelow.length > 0 && `only in ${child.name}: ${listed(onlyBelow)}`,
          ].filter(Boolean)
          cx.report({
            record: records[0],
            severity: nothing ? 'error' : 'warning',
            message: `${child.name} is delegated to other name servers than its own NS set has (${cx.where(own[0]!, records[0])}); ${parts.join('; ')}`,
            effect: nothing
              ? 'Resolvers are sent to servers that do not answer for the zone.'
              : 'Some queries go to servers that do not answer for the zone.',
            fix: own.map((record) => `${child.name} ${cx.record(record)}`),
          })
        }
        for (const target of above) {
          const glue = addressesAt(zones, target, zones.zoneOfRecord(records[0]!).index)
          const real = zones.zoneOf(target) === child ? addressesAt(zones, target) : []
          if (glue.length === 0 || real.length === 0 || dataKeys(zones, glue) === dataKeys(zones, real)) continue
          cx.report({
            record: glue[0],
            part: 0,
            severity: 'error',
            message: `the address of the name server ${cx.name(target)} is ${listed(glue.map((each) => zones.rdataText(each)))} here, and ${listed(real.map((each) => zones.rdataText(each)))} in ${child.name} (${cx.where(real[0]!, glue[0])})`,
            effect: 'Resolvers are sent to an address at which the server is not.',
            fix: real.map((each) => `${cx.name(target)} ${cx.record(each)}`),
          })
        }
      }
    },
  },
}

/** What the top of every zone must have. */

import type { Zone } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { AT_TOP } from '../traits.ts'

/** Whether nothing can be said of what is missing: the zone's records could not be read, or those of that type. */
function unreadable(zone: Zone, type: number, cx: Context): boolean {
  return cx.zones.sources.some(
    (source) =>
      cx.zones.zones[source.zone] === zone &&
      (source.brokenTypes.includes(type) || source.problems.some((p) => p.kind === 'binary' || p.kind === 'include' || p.kind === 'generate')),
  )
}

const SOA_LINE = (zone: Zone): string => `${zone.name} SOA ns1.upland-dns.example. hostmaster.${zone.name} 1 7200 900 1209600 3600`

export const soaMissing: Rule = {
  code: 'soa/missing',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'a zone without an SOA record at its top',
  why: 'Without it a server does not load the zone, and secondaries cannot tell whether they are up to date.',
  remedy: 'Write an SOA record at the top: primary server, mailbox, serial, refresh, retry, expire, minimum.',
  bad: [{ whole: true, zones: { 'hollowmere.example': '$TTL 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\nwww A 192.0.2.10' } }],
  good: ['www A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      if (zone.soa !== NONE || unreadable(zone, TYPE.SOA, cx)) return
      cx.report({
        zone,
        message: `the zone ${zone.name} has no SOA record at its top`,
        consequence: 'Servers do not load the zone.',
        fix: [SOA_LINE(zone)],
      })
    },
  },
}

export const nsMissing: Rule = {
  code: 'ns/missing',
  severity: 'error',
  source: 'RFC 1034 §4.2.1',
  title: 'a zone without name servers (NS) at its top',
  why: 'The zone does not say who answers for it. Servers refuse to load it.',
  remedy: 'Write the NS records that the registry has for the domain.',
  bad: [
    {
      whole: true,
      zones: { 'hollowmere.example': '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nwww A 192.0.2.10' },
    },
  ],
  good: ['www A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      if (cx.zones.records(zone.apex, TYPE.NS, zone.index).length > 0 || unreadable(zone, TYPE.NS, cx)) return
      cx.report({
        zone,
        message: `the zone ${zone.name} has no NS record at its top`,
        consequence: 'Servers do not load the zone.',
        fix: [`${zone.name} NS SERVER.`],
      })
    },
  },
}

export const nsSingle: Rule = {
  code: 'ns/single',
  severity: 'warning',
  source: 'RFC 1034 §4.1, RFC 2182 §5',
  title: 'fewer than two name servers at the top of a zone',
  why: 'When the only server, or its network, is down, the whole domain is: its mail, its site and its services.',
  remedy: 'Add a second server, in another network.',
  bad: [
    {
      whole: true,
      zones: {
        'hollowmere.example': '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.',
      },
    },
  ],
  good: ['www A 192.0.2.10\nisle NS ns1.upland-dns.example.'],
  visit: {
    set: {
      [TYPE.NS]: {
        when: AT_TOP,
        visit(set, cx) {
          if (
            set.owner !== set.zone.apex ||
            set.records.some((record) => cx.zones.target(record) !== cx.zones.target(set.records[0])) ||
            unreadable(set.zone, TYPE.NS, cx)
          )
            return
          cx.report({
            record: set.records[0],
            message: `${cx.name(set.owner)} has one name server only, ${cx.name(cx.zones.target(set.records[0]))}`,
            consequence: 'When it cannot be reached, nothing of the domain can.',
            fix: [`${cx.name(set.owner)} NS SECOND-SERVER.`],
          })
        },
      },
    },
  },
}

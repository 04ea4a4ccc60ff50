import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { unreadable } from '../shared/unreadable.ts'

export const nsMissing: Rule = {
  code: 'ns/missing',
  severity: 'error',
  source: 'RFC 1034 §4.2.1',
  title: 'zone without NS records at its apex',
  why: 'The zone does not say which servers answer for it. Servers refuse to load it.',
  remedy: 'Write the same NS records that the registry has for the domain.',
  bad: [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nwww A 192.0.2.10',
      },
    },
  ],
  good: ['www A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      if (cx.zones.records(zone.apex, TYPE.NS, zone.index).length > 0 || unreadable(zone, TYPE.NS, cx)) return
      cx.report({
        zone,
        message: `the zone ${zone.name} has no NS record at its apex`,
        effect: 'Servers do not load the zone.',
        fix: [`${zone.name} NS SERVER.`],
      })
    },
  },
}

import { isCatalogZone } from '../../knowledge/catalog-zone.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { catalogZone } from '../shared/catalog-example.ts'
import { unreadable } from '../shared/unreadable.ts'
import { AT_TOP } from '../traits.ts'

export const nsSingle: Rule = {
  code: 'ns/single',
  severity: 'warning',
  source: 'RFC 1034 §4.1, RFC 2182 §5',
  title: 'zone with fewer than two name servers',
  why: 'When the only server, or its network, is down, the whole domain is: its mail, its site and its services.',
  remedy: 'Add a second name server in another network.',
  bad: [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.',
      },
    },
  ],
  good: ['www A 192.0.2.10\nisle NS ns1.upland-dns.example.', catalogZone('version TXT "2"')],
  visit: {
    set: {
      [TYPE.NS]: {
        when: AT_TOP,
        visit(set, cx) {
          if (
            set.owner !== set.zone.apex ||
            set.records.some((record) => cx.zones.target(record) !== cx.zones.target(set.records[0]!)) ||
            unreadable(set.zone, TYPE.NS, cx) ||
            // Nobody resolves names in it (RFC 9432 §4.1).
            isCatalogZone(cx.zones, set.zone)
          )
            return
          cx.report({
            record: set.records[0],
            message: `${cx.name(set.owner)} has only one name server, ${cx.name(cx.zones.target(set.records[0]!))}`,
            effect: 'When it is unreachable, the whole domain is.',
            fix: [`${cx.name(set.owner)} NS SECOND-SERVER.`],
          })
        },
      },
    },
  },
}

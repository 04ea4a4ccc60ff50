import type { Zone } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { unreadable } from '../shared/unreadable.ts'

/** Made from the first name server that is there. */
function soaLine(zone: Zone, { zones, name }: Context): string {
  const [server] = zones.records(zone.apex, TYPE.NS, zone.index)
  const primary = server === undefined ? 'SERVER.' : name(zones.target(server))
  return `${zone.name} SOA ${primary} hostmaster.${zone.name} 1 7200 900 1209600 3600`
}

export const soaMissing: Rule = {
  code: 'soa/missing',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'zone without an SOA record at its apex',
  why: 'Without it a server does not load the zone, and secondaries cannot tell whether they are up to date.',
  remedy: 'Write an SOA record at the apex: MNAME, RNAME, serial, refresh, retry, expire, minimum.',
  bad: [
    {
      whole: true,
      zones: {
        'hollowmere.example': '$TTL 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\nwww A 192.0.2.10',
      },
    },
  ],
  good: ['www A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      if (zone.soa !== NONE || unreadable(zone, TYPE.SOA, cx)) return
      cx.report({
        zone,
        message: `the zone ${zone.name} has no SOA record at its apex`,
        effect: 'Servers do not load the zone.',
        fix: [soaLine(zone, cx)],
      })
    },
  },
}

import type { Rule } from '../rule.ts'
import { portsOf } from '../services.ts'
import { ODD_SERVICE } from '../traits.ts'
import { isNone, onSrv, port, priority, serviceOf, weight } from './visits.ts'

export const srvPortZero: Rule = {
  code: 'srv/port-zero',
  severity: 'warning',
  source: 'RFC 2782',
  title: 'SRV record with port 0 and a real target',
  why: 'Nothing listens on port 0. Clients give up, or try a port of their own choice.',
  remedy: 'Write the port that the service listens on.',
  silences: ['srv/port-unusual'],
  bad: ['_xmpp-client._tcp SRV 0 0 0 chat\nchat A 192.0.2.30'],
  good: ['_xmpp-client._tcp SRV 0 0 0 .', '_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    for (const record of set.records) {
      if (port(cx.zones, record) !== 0 || isNone(cx.zones, record)) continue
      const usual = portsOf(serviceOf(set, cx) ?? '')?.[0]
      cx.report({
        record,
        part: 2,
        message: `${cx.name(set.owner)} has port 0 with the target ${cx.name(cx.zones.target(record))}`,
        effect: 'Clients cannot connect.',
        fix: [
          `${cx.name(set.owner)} SRV ${priority(cx.zones, record)} ${weight(cx.zones, record)} ${usual ?? 'PORT'} ${cx.name(cx.zones.target(record))}`,
        ],
      })
    }
  }),
}

import { closest, distance } from 'fastest-levenshtein'
import type { Rule } from '../rule.ts'
import { portsOf, serviceNames } from '../services.ts'
import { ODD_SERVICE } from '../traits.ts'
import { onSrv, serviceOf } from './visits.ts'

export const srvServiceUnregistered: Rule = {
  code: 'srv/service-unregistered',
  severity: 'advice',
  source: 'RFC 2782, RFC 6335',
  title: 'SRV service name that looks like a misspelled registered one',
  why: 'Clients look up the registered name. Under a misspelled one the service is not found. (Service names of your own are allowed, and nothing is said of them.)',
  remedy: 'Compare it with the client’s documentation.',
  bad: ['_imap4s._tcp SRV 0 0 993 mail\nmail A 192.0.2.25'],
  good: ['_imaps._tcp SRV 0 0 993 mail\nmail A 192.0.2.25', '_ferrykiosk._tcp SRV 0 0 8443 kiosk\nkiosk A 192.0.2.40'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    if (service === undefined || portsOf(service)) return
    const near = closest(service, serviceNames())
    if (distance(near, service) > Math.max(1, Math.floor(service.length / 4))) return
    const protocol = cx.zones.tree.labelText(cx.zones.tree.parent(set.owner))
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `_${service} is not a registered service; did you mean _${near}?`,
      effect: `Clients of ${near} do not look here.`,
      fix: set.records.map(
        (record) =>
          `_${near}.${protocol}.${cx.name(cx.zones.tree.parent(cx.zones.tree.parent(set.owner)))} ${cx.record(record)}`,
      ),
    })
  }),
}

import { closest, distance } from 'fastest-levenshtein'
import type { Rule } from '../rule.ts'
import { portsOf, serviceNames } from '../services.ts'
import { ODD_SERVICE } from '../traits.ts'
import { onSrv, serviceOf } from './visits.ts'

export const srvServiceUnregistered: Rule = {
  code: 'srv/service-unregistered',
  severity: 'advice',
  source: 'RFC 2782, RFC 6335',
  title: 'SRV service name that is not a commonly registered one',
  why: 'A service name of your own is allowed. But if a registered one was meant, a misspelling goes unnoticed: clients ask for the right name and find nothing.',
  remedy: 'Compare it with the client’s documentation.',
  bad: ['_imap4s._tcp SRV 0 0 993 mail\nmail A 192.0.2.25', '_ferrykiosk._tcp SRV 0 0 8443 kiosk\nkiosk A 192.0.2.40'],
  good: ['_imaps._tcp SRV 0 0 993 mail\nmail A 192.0.2.25'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    if (service === undefined || portsOf(service)) return
    const near = closest(service, serviceNames())
    const meant = distance(near, service) <= Math.max(1, Math.floor(service.length / 4)) ? near : undefined
    const protocol = cx.zones.tree.labelText(cx.zones.tree.parent(set.owner))
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `_${service} is not a commonly registered service${meant ? `; did you mean _${meant}?` : ''}`,
      effect: meant ? `Clients of ${meant} do not look here.` : 'Only clients that know this name find it.',
      fix: meant
        ? set.records.map(
            (record) =>
              `_${meant}.${protocol}.${cx.name(cx.zones.tree.parent(cx.zones.tree.parent(set.owner)))} ${cx.record(record)}`,
          )
        : ['leave it if the service is your own'],
    })
  }),
}

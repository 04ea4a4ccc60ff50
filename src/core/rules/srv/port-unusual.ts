import type { Rule } from '../rule.ts'
import { portsOf } from '../services.ts'
import { ODD_SERVICE } from '../traits.ts'
import { isNone, onSrv, port, serviceOf } from './visits.ts'

export const srvPortUnusual: Rule = {
  code: 'srv/port-unusual',
  severity: 'advice',
  source: 'RFC 6335',
  title: 'SRV port other than the one registered for the service',
  why: 'This is what SRV is for, and allowed. But often it is a slip, or the port of another service, and firewalls expect the registered one.',
  remedy: 'Compare it with the port that the host listens on.',
  bad: ['_imaps._tcp SRV 0 1 143 mail\nmail A 192.0.2.25'],
  good: ['_imaps._tcp SRV 0 1 993 mail\nmail A 192.0.2.25', '_ferrykiosk._tcp SRV 0 0 8443 mail\nmail A 192.0.2.25'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    const usual = service === undefined ? undefined : portsOf(service)
    if (!usual?.length) return
    for (const record of set.records) {
      const here = port(cx.zones, record)
      if (usual.includes(here) || isNone(cx.zones, record)) continue
      cx.report({
        record,
        part: 2,
        message: `_${service} is registered for port ${usual.join(' or ')}; here it is ${here}`,
        effect: 'If nothing listens there, clients cannot connect.',
        fix: [`leave it if ${cx.name(cx.zones.target(record))} listens on ${here}`],
      })
    }
  }),
}

import type { Rule } from '../rule.ts'
import { portsOf } from '../services.ts'
import { ODD_SERVICE } from '../traits.ts'
import { onSrv, serviceOf } from './visits.ts'

export const srvServiceName: Rule = {
  code: 'srv/service-name',
  severity: 'warning',
  source: 'RFC 6335 §5.1',
  title: 'SRV service name with invalid form',
  why: 'Service names consist of letters, digits and single inner hyphens, with at least one letter and at most 15 characters. Some client libraries reject others. A few longer ones are in wide use.',
  remedy: 'Use the registered name of the service, or a valid one of your own.',
  silences: ['srv/service-unregistered'],
  bad: [
    '_5222._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30',
    '_ferry--kiosk._tcp SRV 0 0 8443 chat\nchat A 192.0.2.30',
    '_ferrykioskscreens._tcp SRV 0 0 8443 chat\nchat A 192.0.2.30',
  ],
  good: ['_ferrykiosk._tcp SRV 0 0 8443 chat\n_sipfederationtls._tcp SRV 0 0 5061 chat\nchat A 192.0.2.30'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    if (service === undefined || portsOf(service)) return
    const lawful = /^[a-z0-9]+(?:-[a-z0-9]+)*$/.test(service) && /[a-z]/.test(service)
    if (lawful && service.length <= 15) return
    cx.report({
      record: set.records[0],
      part: 'owner',
      severity: lawful ? 'advice' : 'warning',
      message: lawful
        ? `the service name ${service} has ${service.length} characters (at most 15)`
        : `${service} is not a valid service name: letters, digits and single inner hyphens, at least one letter`,
      effect: 'Some clients refuse to look it up.',
      fix: ['use the registered name of the service'],
    })
  }),
}

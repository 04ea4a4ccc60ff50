import { describe, expect, test } from 'vitest'
import { portsOf, serviceNames } from '../../../src/core/rules/services.ts'

describe('services and their ports', () => {
  // RFC 6186 §3, RFC 8314 §7.3; RFC 6764 §3; RFC 6120 §14.7; RFC 3263 §8; RFC 5389 §9; RFC 8915 §4; RFC 2782 names the rest by the registry.
  test.each([
    ['imap', 143],
    ['imaps', 993],
    ['pop3s', 995],
    ['submission', 587],
    ['submissions', 465],
    ['sieve', 4190],
    ['caldavs', 443],
    ['carddavs', 443],
    ['xmpp-client', 5222],
    ['xmpp-server', 5269],
    ['sip', 5060],
    ['sips', 5061],
    ['stun', 3478],
    ['turns', 5349],
    ['ldap', 389],
    ['kerberos', 88],
    ['ntp', 123],
    ['ntske', 4460],
    ['ssh', 22],
    ['hkp', 11371],
    ['domain-s', 853],
  ])('%s: %i', (service, port) => expect(portsOf(service.toUpperCase())![0]).toBe(port))

  test('of a service of one’s own nothing is known; some are registered without a port', () => {
    expect(portsOf('ferrykiosk')).toBeUndefined()
    expect(portsOf('certificates')).toEqual([])
  })

  test('every name is a lawful one, or longer than the 15 signs of RFC 6335 §5.1 by long use', () => {
    for (const name of serviceNames()) expect(name).toMatch(/^(?=.*[a-z])[a-z0-9]+(?:-[a-z0-9]+)*$/)
    expect(serviceNames().filter((name) => name.length > 15)).toEqual(['sipfederationtls'])
  })
})

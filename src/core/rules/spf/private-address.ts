import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfPrivateAddress: Rule = {
  code: 'spf/private-address',
  severity: 'warning',
  source: 'RFC 6890',
  title: 'an address in SPF that nobody outside ever sees',
  why: 'Receivers see the address that mail leaves your network with. A private one never reaches them.',
  remedy: 'Write the public address of the gateway that mail leaves by.',
  bad: ['ip4:10.1.2.0/24 -all', 'ip4:192.168.1.5 mx -all', 'ip6:fd00::1 -all'].map(bare),
  good: ['ip4:192.0.2.0/24 -all'].map(bare),
  visit: VISIT,
}

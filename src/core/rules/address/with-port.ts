import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

export const addressWithPort: Rule = {
  code: 'address/with-port',
  severity: 'error',
  source: 'RFC 1035 §3.4.1',
  title: 'address record with a port number',
  why: 'An A or AAAA record holds an address and nothing else. Servers refuse the file.',
  remedy: 'Write the address alone. An SRV record publishes the port; otherwise it is configured in the client.',
  bad: ['kiosk A 192.0.2.1:8443', 'kiosk AAAA [2001:db8::1]:8443'],
  good: ['kiosk A 192.0.2.1\n_ferrykiosk._tcp SRV 0 0 8443 kiosk'],
  visit: onProblem('bad-address', (problem, source) => {
    const match = /^(?:(\d+\.\d+\.\d+\.\d+)|\[([0-9a-f:.]+)\]):(\d{1,5})$/i.exec(written(problem, source))
    if (!match) return undefined
    const address = match[1] ?? match[2]
    return {
      message: `${problem.value} is an address with a port; an address record holds only the address`,
      effect: 'Servers refuse the file.',
      fix: [
        `${problem.type === TYPE.AAAA ? 'AAAA' : 'A'} ${address}`,
        `publish port ${match[3]} as a service: _SERVICE._tcp SRV 0 0 ${match[3]} HOST`,
      ],
    }
  }),
}

import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

export const addressWithPrefix: Rule = {
  code: 'address/with-prefix',
  severity: 'error',
  source: 'RFC 1035 §3.4.1',
  title: 'address record with a prefix length',
  why: 'An A or AAAA record holds one address, not a network. Servers refuse the file.',
  remedy: 'Write the address alone.',
  bad: ['kiosk A 192.0.2.1/24'],
  good: ['kiosk A 192.0.2.1'],
  visit: onProblem('bad-address', (problem, source) => {
    const match = /^([0-9a-f:.]+)\/\d{1,3}$/i.exec(written(problem, source))
    if (!match) return undefined
    return {
      message: `${problem.value} is an address with a prefix length; an address record holds only the address`,
      effect: 'Servers refuse the file.',
      fix: [`${problem.type === TYPE.AAAA ? 'AAAA' : 'A'} ${match[1]}`],
    }
  }),
}

import { TYPE } from '../../records/types.ts'
import { targetIsAlias } from '../shared/target-host.ts'

export const ptrTargetIsAlias = targetIsAlias({
  type: TYPE.PTR,
  code: 'ptr/target-is-alias',
  severity: 'warning',
  source: 'RFC 2181 §10.2, RFC 1912 §2.4',
  effect: 'Receivers that compare the PTR name with the host’s own name find a difference and trust the mail less.',
  silences: ['ptr/forward-missing'],
  bad: [
    {
      zones: {
        'hollowmere.example': 'www CNAME host\nhost A 192.0.2.25',
        '2.0.192.in-addr.arpa': '25 PTR www.hollowmere.example.',
      },
    },
  ],
  good: [
    {
      zones: {
        'hollowmere.example': 'www CNAME host\nhost A 192.0.2.25',
        '2.0.192.in-addr.arpa': '25 PTR host.hollowmere.example.',
      },
    },
  ],
})

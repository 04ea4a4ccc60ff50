import { TYPE } from '../../records/types.ts'
import { targetIsAlias } from '../shared/target-host.ts'

export const mxTargetIsAlias = targetIsAlias({
  type: TYPE.MX,
  code: 'mx/target-is-alias',
  source: 'RFC 2181 §10.3, RFC 5321 §5.1',
  effect:
    'Some senders refuse to deliver to an MX host that is a CNAME; others deliver, but may not recognize themselves as the MX host and create mail loops.',
  bad: [
    '@ MX 10 mail\nmail CNAME host\nhost A 192.0.2.25',
    {
      zones: {
        'hollowmere.example': '@ MX 10 mx.lakepass.example.',
        'lakepass.example': 'mx CNAME host\nhost A 192.0.2.25',
      },
    },
    '@ MX 10 mail\n* CNAME host\nhost A 192.0.2.25',
    '@ MX 10 mail.old\nold DNAME new\nmail.new A 192.0.2.25',
  ],
  good: ['@ MX 10 mail\nmail A 192.0.2.25\nwww CNAME mail'],
})

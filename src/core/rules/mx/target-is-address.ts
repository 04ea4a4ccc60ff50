import { TYPE } from '../../records/types.ts'
import { targetIsAddress } from '../shared/target-form.ts'

export const mxTargetIsAddress = targetIsAddress({
  type: TYPE.MX,
  code: 'mx/target-is-address',
  source: 'RFC 1035 §3.3.9, RFC 5321 §5.1',
  silences: ['mx/target-without-address'],
  bad: ['@ MX 10 192.0.2.1', '@ MX 10 192.0.2.1.', '@ MX 10 2001:db8::25', '@ MX 10 192.0.2.1.hollowmere.example.'],
  good: ['@ MX 10 1mail\n1mail A 192.0.2.1'],
})

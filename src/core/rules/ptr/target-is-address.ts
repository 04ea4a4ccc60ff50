import { TYPE } from '../../records/types.ts'
import { targetIsAddress } from '../shared/target-form.ts'

export const ptrTargetIsAddress = targetIsAddress({
  type: TYPE.PTR,
  code: 'ptr/target-is-address',
  source: 'RFC 1035 §3.3.12',
  silences: ['ptr/forward-missing', 'zones/target-missing'],
  bad: ['www PTR 192.0.2.25'],
  good: ['www PTR 25\n25 A 192.0.2.25'],
})

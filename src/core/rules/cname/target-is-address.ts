import { TYPE } from '../../records/types.ts'
import { targetIsAddress } from '../shared/target-form.ts'

export const cnameTargetIsAddress = targetIsAddress({
  type: TYPE.CNAME,
  code: 'cname/target-is-address',
  source: 'RFC 1035 §3.3.1',
  silences: ['cname/target-missing'],
  bad: ['www CNAME 192.0.2.1', 'www CNAME 2001:db8::1'],
  good: ['www A 192.0.2.1'],
})

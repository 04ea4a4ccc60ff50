import { TYPE } from '../../records/types.ts'
import { targetIsAddress } from '../shared/target-form.ts'

export const srvTargetIsAddress = targetIsAddress({
  type: TYPE.SRV,
  code: 'srv/target-is-address',
  source: 'RFC 2782',
  silences: ['srv/target-without-address'],
  bad: ['_xmpp-client._tcp SRV 0 0 5222 192.0.2.1'],
  good: ['_xmpp-client._tcp SRV 0 0 5222 192\n192 A 192.0.2.1'],
})

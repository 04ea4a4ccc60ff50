import { TYPE } from '../../records/types.ts'
import { targetNotPublic } from '../shared/target-public.ts'

export const srvTargetNotPublic = targetNotPublic({
  type: TYPE.SRV,
  code: 'srv/target-not-public',
  bad: ['_xmpp-client._tcp SRV 0 0 5222 chat.internal.'],
  good: ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30'],
})

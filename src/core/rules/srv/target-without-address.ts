import { TYPE } from '../../records/types.ts'
import { targetWithoutAddress } from '../shared/target-host.ts'

export const srvTargetWithoutAddress = targetWithoutAddress({
  type: TYPE.SRV,
  code: 'srv/target-without-address',
  source: 'RFC 2782',
  effect: 'Clients find the service but cannot reach its host.',
  bad: ['_xmpp-client._tcp SRV 0 0 5222 chat'],
  good: ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30', '_sip._udp SRV 0 0 0 .'],
})

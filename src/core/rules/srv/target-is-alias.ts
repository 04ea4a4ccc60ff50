import { TYPE } from '../../records/types.ts'
import { targetIsAlias } from '../shared/target-host.ts'

export const srvTargetIsAlias = targetIsAlias({
  type: TYPE.SRV,
  code: 'srv/target-is-alias',
  source: 'RFC 2782',
  effect:
    'The standard forbids it, and clients differ: some follow the CNAME, some check the certificate against the wrong name, some give up.',
  bad: [
    '_xmpp-client._tcp SRV 0 0 5222 chat\nchat CNAME host\nhost A 192.0.2.30',
    '_xmpp-client._tcp SRV 0 0 5222 chat.old\nold DNAME larkpost.example.',
  ],
  good: ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30\ntalk CNAME chat'],
})

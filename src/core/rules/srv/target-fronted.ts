import { TYPE } from '../../records/types.ts'
import { FRONTS, targetFronted } from '../shared/target-public.ts'

export const srvTargetFronted = targetFronted({
  type: TYPE.SRV,
  code: 'srv/target-fronted',
  bad: [{ zones: { 'hollowmere.example': '_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 203.0.113.7' }, around: FRONTS }],
  good: [{ zones: { 'hollowmere.example': '_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30' }, around: FRONTS }],
})

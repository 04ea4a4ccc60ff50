import { TYPE } from '../../records/types.ts'
import { targetIsRoot } from '../shared/target-form.ts'

export const nsTargetIsRoot = targetIsRoot(
  TYPE.NS,
  'ns/target-is-root',
  'RFC 1035 §3.3.11',
  'There is no server with that name: resolvers that are sent there find none.',
  'isle NS .\nisle NS ns2.upland-dns.example.',
  'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.',
)

import { TYPE } from '../../records/types.ts'
import { targetIsAlias } from '../shared/target-host.ts'

export const nsTargetIsAlias = targetIsAlias({
  type: TYPE.NS,
  code: 'ns/target-is-alias',
  source: 'RFC 2181 §10.3',
  effect: 'Resolvers that look up the server’s address get a CNAME and stop there: for them the server does not exist.',
  bad: [
    'isle NS dns\nisle NS ns2.upland-dns.example.\ndns CNAME host\nhost A 192.0.2.53',
    'isle NS dns.old\nisle NS ns2.upland-dns.example.\nold DNAME new\ndns.new A 192.0.2.53',
  ],
  good: ['isle NS dns\nisle NS ns2.upland-dns.example.\ndns A 192.0.2.53\nwww CNAME dns'],
})

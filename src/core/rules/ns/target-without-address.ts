import { TYPE } from '../../records/types.ts'
import { targetWithoutAddress } from '../shared/target-host.ts'

export const nsTargetWithoutAddress = targetWithoutAddress({
  type: TYPE.NS,
  code: 'ns/target-without-address',
  source: 'RFC 1912 §2.8',
  effect: 'Nobody can reach this name server.',
  bad: ['isle NS dns\nisle NS ns2.upland-dns.example.'],
  good: ['isle NS dns\nisle NS ns2.upland-dns.example.\ndns AAAA 2001:db8::53'],
})

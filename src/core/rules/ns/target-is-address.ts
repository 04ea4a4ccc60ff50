import { TYPE } from '../../records/types.ts'
import { targetIsAddress } from '../shared/target-form.ts'

export const nsTargetIsAddress = targetIsAddress({
  type: TYPE.NS,
  code: 'ns/target-is-address',
  source: 'RFC 1035 §3.3.11',
  silences: ['ns/target-without-address', 'ns/glue-missing'],
  bad: ['isle NS 192.0.2.53\nisle NS ns2.upland-dns.example.'],
  good: ['isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53'],
})

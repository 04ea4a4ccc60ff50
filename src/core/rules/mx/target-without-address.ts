import { TYPE } from '../../records/types.ts'
import { targetWithoutAddress } from '../shared/target-host.ts'

export const mxTargetWithoutAddress = targetWithoutAddress({
  type: TYPE.MX,
  code: 'mx/target-without-address',
  source: 'RFC 5321 §5.1',
  effect: 'Senders cannot reach this MX host. If it is the only one, mail is queued and then bounces.',
  bad: [
    '@ MX 10 mail',
    '@ MX 10 mail\nmail TXT "a host without an address"',
    { zones: { 'hollowmere.example': '@ MX 10 mx.lakepass.example.', 'lakepass.example': 'mail A 192.0.2.25' } },
  ],
  good: [
    '@ MX 10 mail\nmail AAAA 2001:db8::25',
    '@ MX 10 mx.larkpost.example.',
    '@ MX 0 .\n@ TXT "v=spf1 -all"',
    '@ MX 10 any.lake\n*.lake A 192.0.2.25',
    '@ MX 10 mx.isle\nisle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53',
  ],
})

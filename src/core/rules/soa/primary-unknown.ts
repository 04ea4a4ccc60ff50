import { locateWire, MISSING } from '../../knowledge/answer.ts'
import { rdataFields } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onSoa, topped, withValue } from './visits.ts'

export const soaPrimaryUnknown: Rule = {
  code: 'soa/primary-unknown',
  severity: 'warning',
  source: 'RFC 1035 §3.3.13, RFC 2136 §4.1',
  title: 'SOA MNAME that does not exist or is a CNAME',
  why: 'Dynamic updates and notifies use that name. If it leads nowhere, they fail silently.',
  remedy: 'Write the name of the server on which the zone is edited.',
  bad: [
    topped('@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600'),
    topped('@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nns1 CNAME www\nwww A 192.0.2.53'),
  ],
  good: [
    topped('@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nns1 A 192.0.2.53'),
    topped('@ SOA . hostmaster.upland-dns.example. 1 7200 900 1209600 3600'),
  ],
  visit: onSoa(({ data }, record, _zone, cx) => {
    const node = locateWire(cx.zones, data)
    const alias = node >= 0 && cx.zones.hasCname(node)
    if (node !== MISSING && !alias) return []
    const [primary] = rdataFields(TYPE.SOA, data)
    return [
      {
        part: 0,
        message: `the MNAME of the SOA record, ${primary}, ${alias ? 'is a CNAME' : 'does not exist'}`,
        effect: 'Dynamic updates and notifies do not arrive.',
        fix: [withValue(cx, record, 0, 'SERVER.')],
      },
    ]
  }),
}

import { keyTag } from '../../records/dnssec/parts.ts'
import { rdataFields } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { parentZone } from '../look.ts'
import type { Rule } from '../rule.ts'
import { SIGNED_ZONE, SIGNED_ZONE_DS } from '../signed-example.ts'
import { eachSigned, keysOf } from './signed.ts'

const parentAndChild = (ds: string) => ({
  whole: true,
  zones: {
    example: `$TTL 3600\n@ SOA ns1.upland-dns hostmaster.upland-dns 1 7200 900 1209600 3600\n@ NS ns1.upland-dns\n@ NS ns2.upland-dns\nhollowmere NS ns1.upland-dns\nhollowmere NS ns2.upland-dns\nupland-dns NS ns1.upland-dns\nupland-dns NS ns2.upland-dns\nns1.upland-dns A 192.0.2.53\nns2.upland-dns A 198.51.100.53\nlarkpost NS ns1.upland-dns\nlarkpost NS ns2.upland-dns\n${ds}`,
    'hollowmere.example': SIGNED_ZONE,
  },
})

export const dnssecDsUnmatched: Rule = {
  code: 'dnssec/ds-unmatched',
  severity: 'error',
  source: 'RFC 4035 §2.4',
  title: 'DS record that matches no DNSKEY of your child zone',
  why: 'The chain of trust breaks there: validating resolvers treat the whole zone as forged.',
  remedy: 'Write the DS record of the key that is in use.',
  bad: [parentAndChild(`hollowmere DS 1 13 2 ${'AB'.repeat(32)}`)],
  good: [parentAndChild(SIGNED_ZONE_DS)],
  visit: eachSigned(
    (zone, cx) =>
      parentZone(cx.zones, zone) !== undefined && cx.isAbout(zone.apex) && cx.zones.has(zone.apex, TYPE.DNSKEY),
    ({ dsFits }, zone, cx) => {
      const { zones } = cx
      const keys = keysOf(cx, zone)
      const records = zones.records(zone.apex, TYPE.DS, parentZone(zones, zone)!.index)
      const unmatched = records.filter((record) =>
        keys.every((key) => dsFits(zones.rdata(record), key, zone.name) === false),
      )
      for (const record of unmatched)
        cx.report({
          record,
          severity: unmatched.length === records.length ? 'error' : 'warning',
          message: `DS ${rdataFields(TYPE.DS, zones.rdata(record)).slice(0, 3).join(' ')} of ${zone.name} matches none of the zone’s keys (${keys.map((key) => `${keyTag(key)}, algorithm ${key[3]}`).join('; ')})`,
          effect:
            unmatched.length === records.length
              ? 'Validating resolvers treat the whole zone as forged.'
              : 'It has no effect; another DS record keeps the chain of trust intact.',
          fix: ['write the DS record of the key that signs DNSKEY'],
        })
    },
  ),
}

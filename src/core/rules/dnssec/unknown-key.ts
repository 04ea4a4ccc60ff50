import type { RecordId } from '../../model/zones.ts'
import { keyTag, signatureOf } from '../../records/dnssec/parts.ts'
import type { Rule } from '../rule.ts'
import { SIGNED_ZONE } from '../signed-example.ts'
import { keysOf, signedSets, whole } from './signed.ts'

export const dnssecUnknownKey: Rule = {
  code: 'dnssec/unknown-key',
  severity: 'error',
  source: 'RFC 4035 §2.2',
  title: 'record set signed only by a key that is not in the DNSKEY set',
  why: 'Validating resolvers look for the signing key in the zone’s DNSKEY set. Without it they treat the data as forged.',
  remedy: 'Sign the zone again, or put the key back into the DNSKEY set until its signatures are gone.',
  silences: ['dnssec/ds-unmatched'],
  bad: [whole(SIGNED_ZONE.replace(/(?<=\sDNSKEY\s+257 3 13 )\S+/, 'AAAA'))],
  good: [whole(SIGNED_ZONE)],
  visit: {
    zone(zone, cx) {
      const { zones } = cx
      if (
        zone.signed === 'server' ||
        zone.signed === 'no' ||
        zones.zoneWithApex(zone.apex) !== zone ||
        !cx.isAbout(zone.apex)
      )
        return
      const keys = keysOf(cx, zone)
      if (keys.length === 0) return
      const known = new Set(keys.map((key) => `${keyTag(key)} ${key[3]}`))
      const left: RecordId[] = []
      for (const { records, signatures } of signedSets(cx, zone)) {
        const isKnown = (each: RecordId): boolean => {
          const { tag, algorithm } = signatureOf(zones.rdata(each))
          return known.has(`${tag} ${algorithm}`)
        }
        if (records.length > 0 && signatures.length > 0 && !signatures.some(isKnown)) left.push(signatures[0]!)
      }
      if (left.length === 0) return
      const first = left[0]!
      const { tag, algorithm } = signatureOf(zones.rdata(first))
      cx.report({
        record: first,
        message: `${cx.name(zones.owner(first))} is signed by the key ${tag} (algorithm ${algorithm}), which is not in the DNSKEY set of ${zone.name}${left.length > 1 ? `; so are ${left.length - 1} more sets` : ''}`,
        effect: 'Validating resolvers answer SERVFAIL.',
        fix: ['sign the zone again'],
      })
    },
  },
}

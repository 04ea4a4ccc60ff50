import type { RecordId, Zones } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, isReverse } from '../look.ts'
import type { Rule } from '../rule.ts'
import { MAIL_HOSTS } from './visits.ts'

export const mxImplicit: Rule = {
  code: 'mx/implicit',
  severity: 'advice',
  source: 'RFC 5321 §5.1',
  title: 'domain with addresses but without MX records',
  why: 'Without MX, mail goes to the domain’s own address: to the web server, which rejects it, or accepts and loses it.',
  remedy: 'Write the MX records, or MX 0 . if the domain does not accept mail.',
  bad: [
    '@ A 192.0.2.10\n@ TXT "v=spf1 -all"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:d@hollowmere.example"\nwww CNAME @',
  ],
  good: ['@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.\nwww CNAME @', 'www A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      if (zone.complete === false || !cx.isAbout(zone.apex) || isReverse(zone)) return
      if (cx.zones.has(zone.apex, TYPE.MX) || cx.zones.has(zone.apex, TYPE.CNAME)) return
      const [address] = addressesAt(cx.zones, zone.apex, zone.index)
      if (address === undefined) return
      if (
        MAIL_HOSTS.some((label) => mxBelow(cx.zones, zone.apex, label) !== NONE) ||
        cx.sourcesOf(zone).some(({ brokenTypes }) => brokenTypes.includes(TYPE.MX))
      )
        return
      cx.report({
        record: address,
        message: `${zone.name} has addresses but no MX record`,
        effect: `Mail for the domain goes to ${cx.zones.rdataText(address)}.`,
        fix: [`${zone.name} MX 10 HOST.`, `or, if it accepts no mail: ${zone.name} MX 0 .`],
      })
    },
  },
}

function mxBelow(zones: Zones, name: NameId, label: string): RecordId {
  const octets = Uint8Array.from(label, (sign) => sign.charCodeAt(0))
  const below = zones.tree.find(name, octets, 0, octets.length)
  return below === NONE ? NONE : (zones.records(below, TYPE.MX)[0] ?? NONE)
}

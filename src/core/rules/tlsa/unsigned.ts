import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { TLSA } from './example.ts'

export const tlsaUnsigned: Rule = {
  code: 'tlsa/unsigned',
  severity: 'advice',
  source: 'RFC 7672 §2.2',
  title: 'TLSA record in an unsigned zone',
  why: 'Without DNSSEC, anyone on the path could replace the record, so clients ignore it.',
  remedy: 'Sign the zone. If the server signs it, set “signed: server” in bramblefront.yaml.',
  bad: [`@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`],
  good: [
    {
      zones: { 'hollowmere.example': `@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25` },
      traits: { 'hollowmere.example': { signed: 'server' } },
    },
  ],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        if ((set.zone.signed !== undefined && set.zone.signed !== 'no') || cx.zones.has(set.zone.apex, TYPE.DNSKEY))
          return
        const told = cx.memory(() => new Set<number>())
        if (told.has(set.zone.index)) return
        told.add(set.zone.index)
        cx.report({
          record: set.records[0],
          message: `${cx.name(set.owner)} has a TLSA record, but ${set.zone.name} is not signed`,
          effect: 'Clients ignore it.',
          fix: ['sign the zone; if the server signs it, set “signed: server” in bramblefront.yaml'],
        })
      },
    },
  },
}

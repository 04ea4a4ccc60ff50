import { locateWire } from '../../knowledge/answer.ts'
import { wireNameLength, wireToName } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import { EXAMPLE_HEAD } from '../example-head.ts'
import { isPrivate } from '../look.ts'
import type { Rule } from '../rule.ts'
import { takesNoMail } from '../shared/known-targets.ts'

export const soaMailboxClosed: Rule = {
  code: 'soa/mailbox-closed',
  severity: 'advice',
  source: 'RFC 1035 §3.3.13, RFC 2142 §7',
  title: 'SOA RNAME at a domain that does not accept mail',
  why: 'RNAME is the address of the person responsible for the zone. If it does not accept mail, nobody can tell them that something is wrong.',
  remedy: 'Use an address at a domain that accepts mail.',
  bad: [
    {
      whole: true,
      zones: { 'hollowmere.example': EXAMPLE_HEAD.replace('hostmaster.upland-dns.example.', 'hostmaster') },
    },
  ],
  good: [
    { whole: true, zones: { 'hollowmere.example': EXAMPLE_HEAD } },
    {
      whole: true,
      zones: { 'ferries.internal': EXAMPLE_HEAD.replace('hostmaster.upland-dns.example.', 'hostmaster') },
    },
  ],
  visit: {
    set: {
      [TYPE.SOA](set, cx) {
        if (set.owner !== set.zone.apex || isPrivate(cx.zones, set.zone)) return
        const data = cx.zones.rdata(set.records[0]!)
        const mailbox = wireNameLength(data, 0)
        const domain = mailbox + data[mailbox]! + 1
        const isName = data[mailbox] !== 0 && !data.subarray(mailbox, domain).includes(0x40)
        const because = isName ? takesNoMail(cx.zones, locateWire(cx.zones, data, domain)) : undefined
        if (!because) return
        cx.report({
          record: set.records[0],
          part: 1,
          message: `the SOA record’s RNAME ${wireToName(data, mailbox)}: ${wireToName(data, domain)} ${because}`,
          effect: 'People who notice a problem with the zone cannot report it.',
          fix: ['use an address at a domain that accepts mail'],
        })
      },
    },
  },
}

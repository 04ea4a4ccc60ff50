import { rdataFields } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onSoa, topped, withValue } from './visits.ts'

export const soaMailboxAtSign: Rule = {
  code: 'soa/mailbox-at-sign',
  severity: 'warning',
  source: 'RFC 1035 §3.3.13',
  title: 'SOA record with “@” in its RNAME',
  why: 'RNAME is an e-mail address written as a name: its first label is the part before the “@”. With an “@” in it, nobody can tell whom to write to.',
  remedy: 'Write a dot instead of “@”, and \\. for a dot before it.',
  bad: [topped('@ SOA ns1.upland-dns.example. hostmaster@hollowmere.example. 1 7200 900 1209600 3600')],
  good: [
    topped('@ SOA ns1.upland-dns.example. hostmaster.larkpost.example. 1 7200 900 1209600 3600'),
    topped('@ SOA @ ferry\\.host 1 7200 900 1209600 3600\n@ A 192.0.2.53'),
  ],
  visit: onSoa(({ data }, record, _zone, cx) => {
    if (!data.subarray(0, -20).includes(0x40)) return []
    const [, mailbox = ''] = rdataFields(TYPE.SOA, data)
    const place = mailbox.replace(/\\@/g, '@').indexOf('@')
    if (place < 0) return []
    const plain = mailbox.replace(/\\@/g, '@')
    const right = `${plain.slice(0, place).replace(/\./g, '\\.')}.${plain.slice(place + 1)}`
    return [
      {
        part: 1,
        message: `the RNAME of the SOA record contains “@”: ${plain}`,
        effect: 'It is read as a name, and nobody can tell whom to write to.',
        fix: [withValue(cx, record, 1, right)],
        repair: cx.rewriting(record, 1, right),
      },
    ]
  }),
}

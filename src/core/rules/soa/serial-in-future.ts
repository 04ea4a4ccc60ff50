import type { Rule } from '../rule.ts'
import { DAY, onSoa, topped } from './visits.ts'

export const soaSerialInFuture: Rule = {
  code: 'soa/serial-in-future',
  severity: 'advice',
  source: 'RFC 1912 §2.2',
  title: 'SOA serial that reads as a date more than a day ahead',
  why: 'Serials only go up. After a typing mistake, the date form cannot be used until that day.',
  remedy: 'Keep counting from it, or bring it back in two steps (RFC 1982 §7).',
  bad: [{ zones: { 'hollowmere.example': 'www A 192.0.2.10' }, around: { now: new Date('2026-11-20T12:00:00Z') } }],
  good: [
    { zones: { 'hollowmere.example': 'www A 192.0.2.10' }, around: { now: new Date('2026-11-23T08:00:00Z') } },
    {
      ...topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 4100000000 7200 900 1209600 3600'),
      around: { now: new Date('2026-11-23T08:00:00Z') },
    },
  ],
  visit: onSoa(({ serial }, _record, zone, cx) => {
    if (zone.hosted) return []
    const { now } = cx.around
    const match =
      serial >= 2_000_000_000 && serial < 2_100_000_000 ? /^(20\d\d)(\d\d)(\d\d)\d\d$/.exec(String(serial)) : null
    if (!match || !now) return []
    const date = Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3]))
    if (Number(match[2]) > 12 || Number(match[3]) > 31 || date - now.getTime() <= DAY * 1000) return []
    return [
      {
        part: 2,
        message: `the serial ${serial} reads as ${match[1]}-${match[2]}-${match[3]}, which is in the future`,
        effect: 'Serials only go up, so it cannot show the date until then.',
        fix: ['keep counting from it'],
      },
    ]
  }),
}

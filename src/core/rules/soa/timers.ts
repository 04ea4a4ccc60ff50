import type { Rule } from '../rule.ts'
import { DAY, onSoa, SOUND, topped, withValue } from './visits.ts'

const WEEK = 604_800

export const soaTimers: Rule = {
  code: 'soa/timers',
  severity: 'warning',
  source: 'RFC 1912 §2.2, RFC 2308 §5',
  title: 'SOA timers that do not fit together',
  why: 'Secondaries refresh, retry and expire by these times; resolvers cache negative answers by the minimum. With bad values a secondary stops answering during a short outage, or a new name stays unknown for days.',
  remedy: 'Usual values: refresh 7200, retry 900, expire 1209600, minimum 3600.',
  bad: [
    topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 900 7200 1209600 3600'),
    topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 604800 86400 610000 3600'),
    topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 604800'),
    topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 86400 3600'),
  ],
  good: [topped(SOUND), topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 604800 86400')],
  visit: onSoa(({ refresh, retry, expire, minimum }, record, _zone, cx) => [
    retry >= refresh
      ? {
          part: 4,
          message: `retry (${retry}) is not below refresh (${refresh})`,
          effect: 'After a failed refresh, a secondary waits longer for the retry than for the next refresh.',
          fix: [withValue(cx, record, 4, Math.max(60, Math.floor(refresh / 8)))],
        }
      : undefined,
    expire < refresh + retry
      ? {
          part: 5,
          message: `expire (${expire}) is below refresh plus retry (${refresh + retry})`,
          effect: 'Secondaries expire the zone before they have retried.',
          fix: [withValue(cx, record, 5, 1_209_600)],
        }
      : expire < WEEK
        ? {
            part: 5,
            severity: 'advice',
            message: `expire (${expire}) is less than a week`,
            effect: 'When the primary is down over a weekend, the secondaries stop answering.',
            fix: [withValue(cx, record, 5, 1_209_600)],
          }
        : undefined,
    minimum > DAY
      ? {
          part: 6,
          message: `minimum (${minimum}) is more than a day; negative answers are cached that long`,
          effect: 'A name that somebody looked up too early stays unknown for that long.',
          fix: [withValue(cx, record, 6, 3600)],
        }
      : undefined,
  ]),
}

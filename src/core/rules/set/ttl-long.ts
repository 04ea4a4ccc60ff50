import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onTtl } from './ttl-visits.ts'

const MOVED = new Set<number>([TYPE.A, TYPE.AAAA, TYPE.MX, TYPE.CNAME])

const DAY = 86_400

export const setTtlLong: Rule = {
  code: 'set/ttl-long',
  severity: 'advice',
  source: 'RFC 1912 §2.2',
  title: 'TTL of more than a day on addresses, MX or CNAME',
  why: 'When the host moves, or the record turns out to be wrong, resolvers keep the old answer for that long.',
  remedy: 'An hour to a day is long enough. Lower it at least that long before a move.',
  bad: ['www 604800 A 192.0.2.10'],
  good: ['www 86400 A 192.0.2.10\n@ 604800 TXT "ferry-proof=41c2"'],
  visit: onTtl(
    (record, cx) => cx.zones.ttl(record) > DAY && MOVED.has(cx.zones.type(record)),
    (set) => ({
      message: `TTL of more than a day: ${set}`,
      effect: 'A change takes that long to reach everyone.',
      fix: ['use a TTL of 86400 or less'],
    }),
  ),
}

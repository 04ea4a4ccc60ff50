import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onTtl } from './ttl-visits.ts'

export const setTtlZero: Rule = {
  code: 'set/ttl-zero',
  severity: 'advice',
  source: 'RFC 1035 §3.2.1',
  title: 'a TTL of 0',
  why: 'Nobody may keep the answer: every client asks anew, each time, and waits for your servers. When they are down for a minute, so is the name.',
  remedy: 'State a minute at the least, and an hour once nothing is being moved.',
  bad: ['www 0 A 192.0.2.10'],
  good: ['www 60 A 192.0.2.10'],
  visit: onTtl(
    (record, cx) =>
      cx.zones.ttl(record) === 0 && cx.zones.type(record) !== TYPE.RRSIG && cx.zones.type(record) !== TYPE.NSEC3PARAM,
    (set) => ({
      message: `TTL 0: ${set}`,
      effect: 'Every client asks your servers every time.',
      fix: ['state a TTL of 60 or more'],
    }),
  ),
}

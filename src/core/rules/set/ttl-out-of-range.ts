import { MAX_TTL } from '../../records/ttl.ts'
import type { Rule } from '../rule.ts'
import { ODD_TTL } from '../traits.ts'

export const setTtlOutOfRange: Rule = {
  code: 'set/ttl-out-of-range',
  severity: 'error',
  source: 'RFC 2181 §8',
  title: 'TTL of more than 2147483647 seconds',
  why: 'A TTL has 31 bits. Resolvers treat a larger one as zero and ask again every time; some servers refuse the file.',
  remedy: 'Write a TTL in seconds. An hour to a day suits most record sets.',
  bad: ['www 2147483648 A 192.0.2.10'],
  good: ['www 604800 A 192.0.2.10'],
  visit: {
    record: {
      when: ODD_TTL,
      visit(record, cx) {
        const ttl = cx.zones.ttl(record)
        if (ttl <= MAX_TTL) return
        cx.report({
          record,
          part: 'ttl',
          message: `${cx.name(cx.zones.owner(record))} has a TTL of ${ttl} seconds (at most ${MAX_TTL})`,
          effect: 'Resolvers treat it as zero, or servers refuse the file.',
          fix: [`${cx.name(cx.zones.owner(record))} 3600 ${cx.record(record)}`],
        })
      },
    },
  },
}

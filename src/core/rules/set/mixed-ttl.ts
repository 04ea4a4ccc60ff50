import type { RecordId } from '../../model/zones.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { firstAlike } from './pairs.ts'

export const setMixedTtl: Rule = {
  code: 'set/mixed-ttl',
  severity: 'warning',
  source: 'RFC 2181 §5.2, RFC 4034 §3',
  title: 'record set with different TTLs',
  why: 'A record set has one TTL. Servers choose one of those in the file, and not all the same one, so the set is cached for longer or shorter than intended.',
  remedy: 'Give all records of the set the same TTL.',
  bad: ['www 300 A 192.0.2.10\nwww 3600 A 192.0.2.11'],
  good: ['www 300 A 192.0.2.10\nwww 300 A 192.0.2.11\nwww 3600 AAAA 2001:db8::10'],
  visit: {
    several(set, cx) {
      if (set.type === TYPE.RRSIG) return
      const ttl = cx.zones.ttl(set.records[0]!)
      let other: RecordId | undefined
      for (let i = 1; i < set.records.length && other === undefined; i++)
        if (cx.zones.ttl(set.records[i]!) !== ttl) other = set.records[i]
      if (other === undefined || new Set(firstAlike(set, cx)).size < 2) return
      const lowest = set.records.reduce((low, record) => Math.min(low, cx.zones.ttl(record)), ttl)
      cx.report({
        record: other,
        part: 'ttl',
        message: `${typeText(set.type)} at ${cx.name(set.owner)} has TTL ${cx.zones.ttl(other)} here and ${ttl} at ${cx.where(set.records[0]!, other)}`,
        effect: 'Servers choose one of them for the whole set.',
        fix: set.records.map((record) => `${cx.name(set.owner)} ${lowest} ${cx.record(record)}`),
      })
    },
  },
}

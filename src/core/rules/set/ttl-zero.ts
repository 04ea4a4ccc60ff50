import { isCatalogZone } from '../../knowledge/catalog-zone.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { catalogZone } from '../shared/catalog-example.ts'
import { onTtl } from './ttl-visits.ts'

export const setTtlZero: Rule = {
  code: 'set/ttl-zero',
  severity: 'advice',
  source: 'RFC 1035 §3.2.1',
  title: 'TTL of 0',
  why: 'The answer may not be cached: every client asks again each time, and waits for your servers. If they are down for a minute, so is the name.',
  remedy: 'Use at least a minute, and an hour when nothing is being moved.',
  bad: ['www 0 A 192.0.2.10'],
  good: ['www 60 A 192.0.2.10', catalogZone('version 0 TXT "2"\na.zones 0 PTR lakepass.example.')],
  visit: onTtl(
    (record, cx) =>
      cx.zones.ttl(record) === 0 &&
      cx.zones.type(record) !== TYPE.RRSIG &&
      cx.zones.type(record) !== TYPE.NSEC3PARAM &&
      // TTLs mean nothing in a catalog zone (RFC 9432 §4.1).
      !isCatalogZone(cx.zones, cx.zones.zoneOfRecord(record)),
    (set) => ({
      message: `TTL 0: ${set}`,
      effect: 'Every client queries your servers every time.',
      fix: ['use a TTL of 60 or more'],
    }),
  ),
}

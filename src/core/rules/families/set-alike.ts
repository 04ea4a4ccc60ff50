/** Records of one set that differ where they must not, or do not differ at all. */

import { GENERATED, type RecordId, type Zones } from '../../model/zones.ts'
import { name } from '../../records/fields.ts'
import { rdataKey, sameRdata } from '../../records/rdata.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import type { Context, Repair, Rule, SetView } from '../rule.ts'

/** Sets of more records than this are compared by keys, so that the cost stays linear. */
const PAIRWISE = 8

/** Whether two records of a set are certainly not the same: told from the columns, as most are. */
function differ(zones: Zones, one: RecordId, other: RecordId): boolean {
  const length = zones.dataOctets(one)
  if (zones.target(one) !== zones.target(other) || length !== zones.dataOctets(other)) return true
  // Letter case counts in data without names only; of the rest, the slower comparison decides.
  if (rowOf(zones.type(one))?.fields.some((field) => field.kind === name)) return false
  const { octets } = zones.data
  for (let i = 0; i < length; i++) if (octets[zones.dataStart(one) + i] !== octets[zones.dataStart(other) + i]) return true
  return false
}

/** The first record with each record's data: itself, where it is no repeat. */
function firstAlike(set: SetView, cx: Context): RecordId[] {
  const { records, type } = set
  if (records.length === 2 && differ(cx.zones, records[0], records[1])) return records
  if (records.length <= PAIRWISE)
    return records.map((record, i) => records.find((other, k) => k === i || sameRdata(type, cx.zones.rdata(other), cx.zones.rdata(record)))!)
  const found = new Map<string, RecordId>()
  return records.map((record) => {
    const key = rdataKey(type, cx.zones.rdata(record))
    const first = found.get(key)
    if (first === undefined) found.set(key, record)
    return first ?? record
  })
}

/** The set with each record once; the first repeat has it, since one change takes them all. Sets that stand in an include are left to the person. */
function withoutRepeats(set: SetView, cx: Context, firsts: readonly RecordId[]): Repair | undefined {
  const { zones } = cx
  if (set.records.some((record) => zones.flags(record) & GENERATED)) return undefined
  const kept = new Set(firsts)
  const change = { owner: cx.name(set.owner), type: set.type, ttl: zones.ttl(set.records[0]), data: [...kept].map((record) => zones.rdata(record)) }
  return { zone: set.zone, change }
}

export const setDuplicateRecord: Rule = {
  code: 'set/duplicate-record',
  severity: 'warning',
  source: 'RFC 2181 §5',
  title: 'the same record twice',
  why: 'Servers keep one of them. Whoever changes one and overlooks the other has two different records afterwards.',
  remedy: 'Take one of them out.',
  bad: [
    'www A 192.0.2.10\nWWW A 192.0.2.10',
    '@ MX 10 mail\n@ MX 10 MAIL.hollowmere.example.\nmail A 192.0.2.25',
    'www CNAME site\nwww CNAME site\nsite A 192.0.2.10',
  ],
  good: ['www A 192.0.2.10\nwww A 192.0.2.11', '@ TXT "Proof"\n@ TXT "proof"'],
  visit: {
    several(set, cx) {
      const firsts = firstAlike(set, cx)
      if (firsts === set.records) return
      for (const [i, record] of set.records.entries()) {
        const same = firsts[i]
        if (same === record) continue
        cx.report({
          record,
          message: `${cx.name(set.owner)} has ${cx.record(record)} twice; the first is at ${cx.where(same, record)}`,
          consequence: 'Servers keep one of them.',
          fix: ['take this line out'],
          repair: withoutRepeats(set, cx, firsts),
        })
      }
    },
  },
}

export const setMixedTtl: Rule = {
  code: 'set/mixed-ttl',
  severity: 'warning',
  source: 'RFC 2181 §5.2, RFC 4034 §3',
  title: 'different TTLs within one record set',
  why: 'A set has one TTL. Servers choose one of those stated, and not all the same one, so the set is cached longer or shorter than was meant.',
  remedy: 'Give all records of the set the same TTL.',
  bad: ['www 300 A 192.0.2.10\nwww 3600 A 192.0.2.11'],
  good: ['www 300 A 192.0.2.10\nwww 300 A 192.0.2.11\nwww 3600 AAAA 2001:db8::10'],
  visit: {
    several(set, cx) {
      if (set.type === TYPE.RRSIG) return
      const ttl = cx.zones.ttl(set.records[0])
      let other: RecordId | undefined
      for (let i = 1; i < set.records.length && other === undefined; i++) if (cx.zones.ttl(set.records[i]) !== ttl) other = set.records[i]
      if (other === undefined || new Set(firstAlike(set, cx)).size < 2) return
      const lowest = set.records.reduce((low, record) => Math.min(low, cx.zones.ttl(record)), ttl)
      cx.report({
        record: other,
        part: 'ttl',
        message: `${typeText(set.type)} at ${cx.name(set.owner)} has TTL ${cx.zones.ttl(other)} here and ${ttl} at ${cx.where(set.records[0], other)}`,
        consequence: 'Servers choose one of them for the whole set.',
        fix: set.records.map((record) => `${cx.name(set.owner)} ${lowest} ${cx.record(record)}`),
      })
    },
  },
}

/** How long sets are kept, how large their answers are, and in which class they stand. */

import { type RecordId, TTL_STATED, type Zone } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Context, Report, Rule } from '../rule.ts'
import { LARGE, ODD_TTL } from '../traits.ts'

/** Whether a record is the first of its set. */
function leadsSet(cx: Context, record: RecordId): boolean {
  const { zones } = cx
  let first = zones.first(zones.owner(record))
  while (first !== NONE && zones.type(first) !== zones.type(record)) first = zones.next(first)
  return first === record
}

interface ByDefault {
  record: RecordId
  sets: number
}

/** A finding for each set whose TTL is such; of those that the default TTL gives theirs, one a zone. */
function onTtl(isOne: (record: RecordId, cx: Context) => boolean, say: (set: string) => Omit<Report, 'record' | 'part'>): Rule['visit'] {
  const setText = (record: RecordId, { zones, name }: Context): string => `${typeText(zones.type(record))} at ${name(zones.owner(record))}`
  return {
    record: {
      when: ODD_TTL,
      visit(record, cx) {
        const { zones } = cx
        if (!isOne(record, cx) || !leadsSet(cx, record)) return
        if (zones.flags(record) & TTL_STATED) {
          cx.report({ record, part: 'ttl', ...say(setText(record, cx)) })
          return
        }
        const byDefault = cx.memory(() => new Map<Zone, ByDefault>())
        const zone = zones.zoneOfRecord(record)
        const met = byDefault.get(zone)
        if (met) met.sets++
        else byDefault.set(zone, { record, sets: 1 })
      },
    },
    finish(cx) {
      for (const { record, sets } of cx.memory(() => new Map<Zone, ByDefault>()).values()) {
        const set = setText(record, cx)
        cx.report({ record, part: 'type', ...say(sets === 1 ? set : `by the default TTL, ${set} and ${sets - 1} more ${sets === 2 ? 'set' : 'sets'}`) })
      }
    },
  }
}

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
    (record, cx) => cx.zones.ttl(record) === 0 && cx.zones.type(record) !== TYPE.RRSIG && cx.zones.type(record) !== TYPE.NSEC3PARAM,
    (set) => ({ message: `TTL 0: ${set}`, consequence: 'Every client asks your servers every time.', fix: ['state a TTL of 60 or more'] }),
  ),
}

const MOVED = new Set<number>([TYPE.A, TYPE.AAAA, TYPE.MX, TYPE.CNAME])
const DAY = 86_400

export const setTtlLong: Rule = {
  code: 'set/ttl-long',
  severity: 'advice',
  source: 'RFC 1912 §2.2',
  title: 'a TTL of over a day on a set that people move: addresses, exchanges, aliases',
  why: 'When the host moves, or the record turns out wrong, resolvers keep the old answer for as long as that.',
  remedy: 'An hour to a day is long enough. Lower it at least that long before a move.',
  bad: ['www 604800 A 192.0.2.10'],
  good: ['www 86400 A 192.0.2.10\n@ 604800 TXT "ferry-proof=41c2"'],
  visit: onTtl(
    (record, cx) => cx.zones.ttl(record) > DAY && MOVED.has(cx.zones.type(record)),
    (set) => ({
      message: `TTL of over a day: ${set}`,
      consequence: 'A change of it takes that long to be seen by everybody.',
      fix: ['state a TTL of 86400 or less'],
    }),
  ),
}

/** What an answer over UDP may have at most, so that it crosses every usual path in one piece (RFC 9715). */
const OVER_UDP = 1400

/** Octets of an answer with the set: header, question, each record behind a compressed owner, and the OPT record. */
function answerSize(cx: Context, owner: NameId, records: readonly RecordId[]): number {
  let size = 12 + cx.zones.tree.wireLength(owner) + 4 + 11
  for (let i = 0; i < records.length; i++) size += 12 + cx.zones.dataOctets(records[i])
  return size
}

export const setAnswerOverUdp: Rule = {
  code: 'set/answer-over-udp',
  severity: 'advice',
  source: 'RFC 6891, RFC 9715',
  title: 'a set whose answer does not fit in 1400 octets',
  why: 'The answer comes truncated (many servers are set to cut it at 1232 octets already), and the question has to be put again over TCP, which takes longer, and does not pass every firewall.',
  remedy: 'Take out what is not needed any more: old proofs, unused addresses.',
  bad: [Array.from({ length: 6 }, (_, i) => `@ TXT "proof${i}=${'x'.repeat(240)}"`).join('\n'), `key TXT ${`"${'x'.repeat(250)}" `.repeat(6)}`],
  good: [Array.from({ length: 5 }, (_, i) => `@ TXT "proof${i}=${'x'.repeat(240)}"`).join('\n')],
  visit: {
    several(set, cx) {
      if (set.type !== TYPE.RRSIG) sayIfLarge(cx, set.owner, set.type, set.records)
    },
    record: {
      when: LARGE,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        if (zones.records(owner, zones.type(record)).length === 1) sayIfLarge(cx, owner, zones.type(record), [record])
      },
    },
  },
}

function sayIfLarge(cx: Context, owner: NameId, type: number, records: readonly RecordId[]): void {
  const size = answerSize(cx, owner, records)
  if (size <= OVER_UDP) return
  cx.report({
    record: records[0],
    message: `the answer with ${typeText(type)} at ${cx.name(owner)} has about ${size} octets; ${OVER_UDP} pass everywhere over UDP`,
    consequence: 'Every resolver has to ask again over TCP.',
    fix: [records.length === 1 ? 'shorten it, if that is possible' : `take out of the ${records.length} records those that nobody needs`],
  })
}

export const setClassMismatch: Rule = {
  code: 'set/class-mismatch',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'records of another class than the zone’s',
  why: 'A zone file is of one class, nearly always IN. Servers refuse the file.',
  remedy: 'Write IN, or leave the class away.',
  bad: ['www CH A 192.0.2.10'],
  good: ['www IN A 192.0.2.10'],
  visit: {
    finish(cx) {
      const { zones } = cx
      if (!zones.hasOddClasses()) return
      const told = new Set<Zone>()
      cx.eachRecord((record) => {
        const zone = zones.zoneOfRecord(record)
        const klass = zone.soa === NONE ? 1 : zones.classOf(zone.soa)
        // A class stands for those below it that state none: of them, nothing more is said.
        if (zones.classOf(record) === klass || told.has(zone)) return
        told.add(zone)
        cx.report({
          record,
          message: `${cx.name(zones.owner(record))} ${typeText(zones.type(record))} is of class ${zones.classOf(record)}, the zone of class ${klass}`,
          consequence: 'Servers refuse the file.',
          fix: [`${cx.name(zones.owner(record))} IN ${cx.record(record)}`],
        })
      })
    },
  },
}

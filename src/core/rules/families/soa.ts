/** What the SOA record says, and where it stands. */

import { advanceSerial, serialAfter } from '../../file/serial.ts'
import { locateWire, MISSING } from '../../knowledge/answer.ts'
import type { RecordId, Source, Zone, Zones } from '../../model/zones.ts'
import { foldName, type Name } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { type Rdata, rdataFields, rdataKey } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { type SoaData, soa } from '../../records/views.ts'
import type { Context, Report, Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'

interface Soa extends SoaData {
  /** The record's data: the primary server's name comes first, then the mailbox. */
  data: Rdata
}

function soaOf(zones: Zones, record: RecordId): Soa {
  const data = zones.rdata(record)
  return { data, ...soa(data) }
}

/** The same line with one value changed. */
function withValue(cx: Context, record: RecordId, index: number, value: string | number): string {
  const values = rdataFields(TYPE.SOA, cx.zones.rdata(record))
  values[index] = String(value)
  return `${cx.name(cx.zones.owner(record))} SOA ${values.join(' ')}`
}

const head = (soa: string): string => `$TTL 3600\n${soa}\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.`
const topped = (soa: string): { whole: true; zones: Record<string, string> } => ({ whole: true, zones: { 'hollowmere.example': head(soa) } })
const SOUND = '@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112301 7200 900 1209600 3600'

export const soaSeveral: Rule = {
  code: 'soa/several',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'more than one SOA record',
  why: 'A zone has one. Servers refuse the file, or take one of them for good.',
  remedy: 'Keep the one with the highest serial.',
  bad: [topped(`${SOUND}\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112302 7200 900 1209600 3600`)],
  good: [topped(SOUND)],
  visit: {
    set: {
      [TYPE.SOA]: {
        when: SEVERAL,
        visit(set, cx) {
          const key = rdataKey(TYPE.SOA, cx.zones.rdata(set.records[0]))
          const other = set.records.find((record) => rdataKey(TYPE.SOA, cx.zones.rdata(record)) !== key)
          if (other === undefined) return
          cx.report({
            record: other,
            message: `${cx.name(set.owner)} has a second SOA record; the first is at ${cx.where(set.records[0], other)}`,
            consequence: 'Servers refuse the file.',
            fix: [`keep only one: ${cx.name(set.owner)} ${cx.record(set.records[0])}`],
          })
        },
      },
    },
  },
}

export const soaNotAtTop: Rule = {
  code: 'soa/not-at-apex',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'an SOA record below the top of its zone',
  why: 'The SOA record marks the top of a zone. Below it, it begins another zone, which belongs in a file of its own.',
  remedy: 'Take it out, or make a zone of that name.',
  bad: ['isle SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600'],
  good: [topped(SOUND)],
  visit: {
    set: {
      [TYPE.SOA](set, cx) {
        if (set.owner === set.zone.apex) return
        cx.report({
          record: set.records[0],
          message: `${cx.name(set.owner)} has an SOA record, but the zone of this file is ${set.zone.name}`,
          consequence: 'Servers refuse the file, or ignore the record.',
          fix: [`take it out; if ${cx.name(set.owner)} is to be a zone, give it a file and write NS records here`],
        })
      },
    },
  },
}

/** A rule about the SOA record at a zone's top. */
function onSoa(look: (soa: Soa, record: RecordId, zone: Zone, cx: Context) => (Omit<Report, 'record'> | undefined)[]): Rule['visit'] {
  return {
    zone(zone, cx) {
      if (zone.soa === NONE || !cx.isAbout(zone.apex)) return
      const reports = look(soaOf(cx.zones, zone.soa), zone.soa, zone, cx)
      for (let i = 0; i < reports.length; i++) {
        const report = reports[i]
        if (report) cx.report({ record: zone.soa, ...report })
      }
    },
  }
}

export const soaMailboxAtSign: Rule = {
  code: 'soa/mailbox-at-sign',
  severity: 'warning',
  source: 'RFC 1035 §3.3.13',
  title: '“@” in the SOA record’s mailbox',
  why: 'The mailbox is written as a name: its first label is the part before the “@”. With an “@” in it, nobody can tell whom to write to.',
  remedy: 'Write a dot in place of “@”, and \\. for a dot in front of it.',
  bad: [topped('@ SOA ns1.upland-dns.example. hostmaster@hollowmere.example. 1 7200 900 1209600 3600')],
  good: [
    topped('@ SOA ns1.upland-dns.example. hostmaster.larkpost.example. 1 7200 900 1209600 3600'),
    topped('@ SOA @ ferry\\.host 1 7200 900 1209600 3600\n@ A 192.0.2.53'),
  ],
  visit: onSoa(({ data }, record, _zone, cx) => {
    if (!data.subarray(0, -20).includes(0x40)) return []
    const [, mailbox] = rdataFields(TYPE.SOA, data)
    const place = mailbox.replace(/\\@/g, '@').indexOf('@')
    if (place < 0) return []
    const plain = mailbox.replace(/\\@/g, '@')
    const right = `${plain.slice(0, place).replace(/\./g, '\\.')}.${plain.slice(place + 1)}`
    return [
      {
        part: 1,
        message: `the mailbox of the SOA record is written with “@”: ${plain}`,
        consequence: 'It is read as a name, and no mailbox is found in it.',
        fix: [withValue(cx, record, 1, right)],
        repair: cx.rewriting(record, 1, right),
      },
    ]
  }),
}

const WEEK = 604_800
const DAY = 86_400

export const soaTimers: Rule = {
  code: 'soa/timers',
  severity: 'warning',
  source: 'RFC 1912 §2.2, RFC 2308 §5',
  title: 'times of the SOA record that do not fit together',
  why: 'Secondaries refresh, retry and give up by these times; resolvers keep denials by the minimum. Ill-chosen, a secondary stops answering during a short outage, or a new name stays unknown for days.',
  remedy: 'Usual: refresh 7200, retry 900, expire 1209600, minimum 3600.',
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
          consequence: 'A secondary that missed the primary once waits longer for the second try than for the first.',
          fix: [withValue(cx, record, 4, Math.max(60, Math.floor(refresh / 8)))],
        }
      : undefined,
    expire < refresh + retry
      ? {
          part: 5,
          message: `expire (${expire}) is below refresh and retry together (${refresh + retry})`,
          consequence: 'Secondaries give the zone up before they have tried again.',
          fix: [withValue(cx, record, 5, 1_209_600)],
        }
      : expire < WEEK
        ? {
            part: 5,
            severity: 'advice',
            message: `expire (${expire}) is under a week`,
            consequence: 'When the primary is down over a weekend, the secondaries stop answering.',
            fix: [withValue(cx, record, 5, 1_209_600)],
          }
        : undefined,
    minimum > DAY
      ? {
          part: 6,
          message: `minimum (${minimum}) is over a day; it is how long a denial is kept`,
          consequence: 'A name that was asked for too early stays unknown for that long after it is there.',
          fix: [withValue(cx, record, 6, 3600)],
        }
      : undefined,
  ]),
}

/** Every set of a zone in its file but the SOA record, as texts: owner, type and data, TTLs with them. */
function contentOf(zones: Zones, zone: Zone, { firstRecord, endRecord }: Source): Map<string, number> {
  const found = new Map<string, number>()
  for (let record = firstRecord; record < endRecord; record++) {
    if (record === zone.soa) continue
    const key = `${zones.tree.text(zones.owner(record)).toLowerCase()} ${zones.type(record)} ${zones.ttl(record)} ${rdataKey(zones.type(record), zones.rdata(record))}`
    found.set(key, record)
  }
  return found
}

/** Zones by their names, each with its own file. */
function publishedZones({ zones, sources }: Zones): Map<Name, { zone: Zone; source: Source }> {
  const found = new Map<Name, { zone: Zone; source: Source }>()
  for (const source of sources) {
    const zone = zones[source.zone]
    if (!found.has(foldName(zone.name))) found.set(foldName(zone.name), { zone, source })
  }
  return found
}

export const soaSerialNotAdvanced: Rule = {
  code: 'soa/serial-not-advanced',
  severity: 'error',
  source: 'RFC 1982, RFC 1035 §3.3.13',
  title: 'sets differ from what was last published, and the serial is not greater',
  why: 'Secondaries fetch a zone only when its serial is greater than theirs. They go on answering with the old data, and nobody notices until one of them is asked.',
  remedy: 'Advance the serial.',
  bad: [
    { zones: { 'hollowmere.example': 'www A 192.0.2.11' }, published: { 'hollowmere.example': head(SOUND) + '\nwww A 192.0.2.10\n' } },
    { zones: { 'hollowmere.example': 'www A 192.0.2.11' }, published: { 'lakepass.example': head(SOUND), 'HollowMere.example': head(SOUND) } },
  ],
  good: [
    { zones: { 'hollowmere.example': 'www A 192.0.2.10' }, published: { 'hollowmere.example': head(SOUND) + '\nwww A 192.0.2.10\n' } },
    { zones: { 'hollowmere.example': 'www A 192.0.2.11' }, published: { 'hollowmere.example': head(SOUND.replace('301', '299')) + '\nwww A 192.0.2.10\n' } },
  ],
  visit: onSoa(({ serial }, record, zone, cx) => {
    const { published } = cx.around
    if (!published) return []
    const before = cx.memory(() => publishedZones(published)).get(foldName(zone.name))
    if (!before || before.zone.soa === NONE) return []
    const old = soaOf(published, before.zone.soa).serial
    if (serialAfter(serial, old)) return []
    const then = contentOf(published, before.zone, before.source)
    const now = contentOf(cx.zones, zone, cx.sourcesOf(zone)[0])
    const changed = [...now.keys()].find((key) => !then.has(key))
    const gone = [...then.keys()].find((key) => !now.has(key))
    if (changed === undefined && gone === undefined) return []
    const [zones, example] = changed === undefined ? [published, then.get(gone!)!] : [cx.zones, now.get(changed)!]
    // From what was published, in its own style; without a clock it is counted up.
    const next = advanceSerial(old, cx.around.now ?? new Date(0))
    return [
      {
        part: 2,
        message: `the serial is ${serial}, and ${old} was published with other data (${changed === undefined ? 'gone' : 'new'}: ${zones.tree.text(zones.owner(example))} ${typeText(zones.type(example))} ${zones.rdataText(example)})`,
        consequence: 'Secondaries keep the old data.',
        fix: [withValue(cx, record, 2, next)],
        repair: cx.rewriting(record, 2, String(next)),
      },
    ]
  }),
}

export const soaSerialInFuture: Rule = {
  code: 'soa/serial-in-future',
  severity: 'advice',
  source: 'RFC 1912 §2.2',
  title: 'a serial that reads as a date of more than a day ahead',
  why: 'Serials only go up. After a slip of the finger, the date form cannot be used until that day has come.',
  remedy: 'Go on counting from it, or lead it around in two steps (RFC 1982 §7).',
  bad: [{ zones: { 'hollowmere.example': 'www A 192.0.2.10' }, around: { now: new Date('2026-11-20T12:00:00Z') } }],
  good: [
    { zones: { 'hollowmere.example': 'www A 192.0.2.10' }, around: { now: new Date('2026-11-23T08:00:00Z') } },
    {
      ...topped('@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 4100000000 7200 900 1209600 3600'),
      around: { now: new Date('2026-11-23T08:00:00Z') },
    },
  ],
  visit: onSoa(({ serial }, _record, _zone, cx) => {
    const { now } = cx.around
    const match = serial >= 2_000_000_000 && serial < 2_100_000_000 ? /^(20\d\d)(\d\d)(\d\d)\d\d$/.exec(String(serial)) : null
    if (!match || !now) return []
    const date = Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3]))
    if (Number(match[2]) > 12 || Number(match[3]) > 31 || date - now.getTime() <= DAY * 1000) return []
    return [
      {
        part: 2,
        message: `the serial ${serial} reads as ${match[1]}-${match[2]}-${match[3]}, which is still to come`,
        consequence: 'It can only be counted upwards, so it will not tell the date for a while.',
        fix: ['go on counting from it'],
      },
    ]
  }),
}

export const soaPrimaryUnknown: Rule = {
  code: 'soa/primary-unknown',
  severity: 'warning',
  source: 'RFC 1035 §3.3.13, RFC 2136 §4.1',
  title: 'the SOA record’s primary server is known and does not exist, or is an alias',
  why: 'Dynamic updates and change notices are sent by that name. Where it leads nowhere they fail without a word.',
  remedy: 'Name the server on which the zone is edited.',
  bad: [
    topped('@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600'),
    topped('@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nns1 CNAME www\nwww A 192.0.2.53'),
  ],
  good: [
    topped('@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nns1 A 192.0.2.53'),
    topped('@ SOA . hostmaster.upland-dns.example. 1 7200 900 1209600 3600'),
  ],
  visit: onSoa(({ data }, record, _zone, cx) => {
    const node = locateWire(cx.zones, data)
    const alias = node >= 0 && cx.zones.hasCname(node)
    if (node !== MISSING && !alias) return []
    const [primary] = rdataFields(TYPE.SOA, data)
    return [
      {
        part: 0,
        message: `the primary server in the SOA record, ${primary}, ${alias ? 'is an alias' : 'does not exist'}`,
        consequence: 'Dynamic updates and notices of changes do not arrive.',
        fix: [withValue(cx, record, 0, 'SERVER.')],
      },
    ]
  }),
}

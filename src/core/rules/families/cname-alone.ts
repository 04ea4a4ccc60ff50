import { NONE } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { AT_TOP, CROWDED, SEVERAL } from '../traits.ts'

/** What may stand beside an alias: what signs it or proves that nothing else is there. */
const ALLOWED_BESIDE = new Set<number>([TYPE.CNAME, TYPE.RRSIG, TYPE.NSEC, TYPE.KEY])

export const cnameOtherData: Rule = {
  code: 'cname/other-data',
  severity: 'error',
  source: 'RFC 1034 §3.6.2, RFC 2181 §10.1, RFC 4035 §2.5',
  title: 'an alias (CNAME) beside records of another type',
  why: 'A resolver that has the alias in its cache answers every question for the name with the alias’s target, so the other records are there one minute and gone the next. Most servers refuse to load the zone.',
  remedy: 'Keep either the alias or the other records. Where both are wanted, write the target’s addresses at the name instead of the alias.',
  bad: ['chat CNAME site\nchat TXT "chat of the ferry line"\nsite A 192.0.2.10', 'www CNAME site\nwww MX 10 site\nsite A 192.0.2.10'],
  good: ['chat CNAME site\nsite A 192.0.2.10\nsite TXT "beside an address"'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: CROWDED,
        visit(set, cx) {
          const others = new Map<number, number>()
          for (let record = cx.zones.first(set.owner); record !== NONE; record = cx.zones.next(record))
            if (!ALLOWED_BESIDE.has(cx.zones.type(record)) && cx.zones.zoneOfRecord(record) === set.zone && !others.has(cx.zones.type(record)))
              others.set(cx.zones.type(record), record)
          if (others.size === 0) return
          const [alias] = set.records
          const owner = cx.name(set.owner)
          const list = [...others].map(([type, record]) => `${typeText(type)} (${cx.where(record, alias)})`).join(', ')
          cx.report({
            record: alias,
            message: `${owner} is an alias (${cx.record(alias)}) and also has ${list}`,
            consequence: 'Servers refuse the zone or drop one of them; resolvers that hold the alias never see the other records.',
            fix: [
              `keep only: ${owner} ${cx.record(alias)}`,
              `or take the CNAME out, and write the addresses of ${cx.name(cx.zones.target(alias))} at ${owner}`,
            ],
          })
        },
      },
    },
  },
}

export const cnameSeveral: Rule = {
  code: 'cname/several',
  severity: 'error',
  source: 'RFC 2181 §10.1',
  title: 'more than one alias (CNAME) at a name',
  why: 'A name can be an alias of one name only. Servers refuse the zone, or answer with one of the aliases at random.',
  remedy: 'Keep one. To share load between hosts, give one name the addresses of both.',
  bad: ['www CNAME one\nwww CNAME two\none A 192.0.2.10\ntwo A 192.0.2.11'],
  good: ['www CNAME one\none A 192.0.2.10\none A 192.0.2.11'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: SEVERAL,
        visit(set, cx) {
          const [first, ...more] = set.records
          const firstKey = rdataKey(set.type, cx.zones.rdata(first))
          const other = more.find((record) => rdataKey(set.type, cx.zones.rdata(record)) !== firstKey)
          if (other === undefined) return
          cx.report({
            record: other,
            part: 0,
            message: `${cx.name(set.owner)} has a second alias, ${cx.name(cx.zones.target(other))}, beside ${cx.name(cx.zones.target(first))} (${cx.where(first, other)})`,
            consequence: 'Servers refuse the zone, or answer with one of them at random.',
            fix: [`keep only one: ${cx.name(set.owner)} ${cx.record(first)}`],
          })
        },
      },
    },
  },
}

export const cnameAtTop: Rule = {
  code: 'cname/at-apex',
  severity: 'error',
  source: 'RFC 1912 §2.4, RFC 2181 §10.1',
  title: 'an alias (CNAME) at the top of a zone',
  why: 'The top of a zone always has an SOA and an NS set, and an alias tolerates nothing beside it. Servers refuse the zone; where one does not, mail for the domain goes to the alias’s target.',
  remedy: 'Write the target’s addresses (A, AAAA) at the top. When the target’s addresses change, these must be changed too.',
  silences: ['cname/other-data'],
  bad: ['@ CNAME site\nsite A 192.0.2.10'],
  good: ['@ A 192.0.2.10\nwww CNAME @', 'site.below CNAME www\nwww A 192.0.2.10'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: AT_TOP,
        visit(set, cx) {
          if (set.owner !== set.zone.apex) return
          const [alias] = set.records
          const target = cx.zones.target(alias)
          const addresses = [...cx.zones.records(target, TYPE.A), ...cx.zones.records(target, TYPE.AAAA)]
          const owner = cx.name(set.owner)
          cx.report({
            record: alias,
            message: `the top of the zone, ${owner}, is an alias of ${cx.name(target)}`,
            consequence: 'It cannot stand beside the zone’s own SOA and NS records: servers refuse the zone.',
            fix:
              addresses.length > 0
                ? addresses.map((record) => `${owner} ${cx.record(record)}`)
                : [`write the present addresses of ${cx.name(target)} as A and AAAA records at ${owner}, and watch that they stay the same`],
          })
        },
      },
    },
  },
}

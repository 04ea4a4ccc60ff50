import { bare } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { BESIDE_ALIAS, TYPE, typeText } from '../../records/types.ts'
import { addressesAt } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { CROWDED } from '../traits.ts'

/** The addresses that stand beside an alias; a word for them where there are none. */
function addressesBeside(cx: Context, owner: NameId): string {
  const there = addressesAt(cx.zones, owner).map((record) => cx.zones.rdataText(record))
  return there.join(' ') || 'ADDRESS'
}

export const cnameOtherData: Rule = {
  code: 'cname/other-data',
  severity: 'error',
  source: 'RFC 1034 §3.6.2, RFC 2181 §10.1, RFC 4035 §2.5',
  title: 'CNAME next to records of another type',
  why: 'A resolver with the CNAME in its cache answers every query for the name with the CNAME’s target, so the other records come and go. Most servers refuse to load the zone.',
  remedy:
    'Keep either the CNAME or the other records. If you need both, write the target’s addresses at the name instead of the CNAME.',
  bad: [
    'chat CNAME site\nchat TXT "chat of the ferry line"\nsite A 192.0.2.10',
    'www CNAME site\nwww MX 10 site\nsite A 192.0.2.10',
  ],
  good: ['chat CNAME site\nsite A 192.0.2.10\nsite TXT "beside an address"'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: CROWDED,
        visit(set, cx) {
          const others = new Map<number, number>()
          for (let record = cx.zones.first(set.owner); record !== NONE; record = cx.zones.next(record))
            if (
              cx.zones.type(record) !== TYPE.CNAME &&
              !BESIDE_ALIAS.has(cx.zones.type(record)) &&
              cx.zones.zoneOfRecord(record) === set.zone &&
              !others.has(cx.zones.type(record))
            )
              others.set(cx.zones.type(record), record)
          if (others.size === 0) return
          const alias = set.records[0]!
          const owner = cx.name(set.owner)
          const list = [...others].map(([type, record]) => `${typeText(type)} (${cx.where(record, alias)})`).join(', ')
          cx.report({
            record: alias,
            message: `${owner} has a CNAME (${cx.record(alias)}) and also ${list}`,
            effect:
              'Servers refuse the zone or drop one of the records; resolvers that have the CNAME in their cache never see the others.',
            fix: [
              `to keep the CNAME alone: bramblefront write cname ${bare(owner)} ${cx.name(cx.zones.target(alias))} --replace`,
              `to keep the rest: bramblefront remove ${bare(owner)} CNAME`,
              `to have addresses there: bramblefront write address ${bare(owner)} ${addressesBeside(cx, set.owner)} --replace`,
            ],
          })
        },
      },
    },
  },
}

import { bare } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { AT_TOP } from '../traits.ts'

export const cnameAtTop: Rule = {
  code: 'cname/at-apex',
  severity: 'error',
  source: 'RFC 1912 §2.4, RFC 2181 §10.1',
  title: 'CNAME at the zone apex',
  why: 'The apex always has SOA and NS records, and a CNAME must be the only record at its name. Servers refuse the zone; where one loads it, mail for the domain goes to the CNAME’s target. What hosting companies sell as an ALIAS, ANAME or redirect at the apex is a feature of their servers, not a record type: they resolve the target and answer with its addresses.',
  remedy:
    'Let the apex follow the target: bramblefront follow writes its addresses (A, AAAA), and notices when they change.',
  silences: ['cname/other-data'],
  bad: ['@ CNAME site\nsite A 192.0.2.10'],
  good: ['@ A 192.0.2.10\nwww CNAME @', 'site.below CNAME www\nwww A 192.0.2.10'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: AT_TOP,
        visit(set, cx) {
          if (set.owner !== set.zone.apex) return
          const alias = set.records[0]!
          const target = cx.zones.target(alias)
          const owner = cx.name(set.owner)
          cx.report({
            record: alias,
            message: `the zone apex ${owner} has a CNAME to ${cx.name(target)}`,
            effect: 'Servers refuse the zone: a CNAME cannot exist next to the SOA and NS records of the apex.',
            fix: [
              `bramblefront remove ${bare(owner)} CNAME`,
              `bramblefront follow ${bare(owner)} ${bare(cx.name(target))}`,
            ],
          })
        },
      },
    },
  },
}

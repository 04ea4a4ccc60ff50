import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { AT_TOP } from '../traits.ts'

export const cnameAtTop: Rule = {
  code: 'cname/at-apex',
  severity: 'error',
  source: 'RFC 1912 §2.4, RFC 2181 §10.1',
  title: 'an alias (CNAME) at the top of a zone',
  why: 'The top of a zone always has an SOA and an NS set, and an alias tolerates nothing beside it. Servers refuse the zone; where one does not, mail for the domain goes to the alias’s target.',
  remedy:
    'Write the target’s addresses (A, AAAA) at the top. When the target’s addresses change, these must be changed too.',
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
          const addresses = [...cx.zones.records(target, TYPE.A), ...cx.zones.records(target, TYPE.AAAA)]
          const owner = cx.name(set.owner)
          cx.report({
            record: alias,
            message: `the top of the zone, ${owner}, is an alias of ${cx.name(target)}`,
            effect: 'It cannot stand beside the zone’s own SOA and NS records: servers refuse the zone.',
            fix:
              addresses.length > 0
                ? addresses.map((record) => `${owner} ${cx.record(record)}`)
                : [
                    `write the present addresses of ${cx.name(target)} as A and AAAA records at ${owner}, and watch that they stay the same`,
                  ],
          })
        },
      },
    },
  },
}

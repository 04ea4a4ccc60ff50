import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { WILDCARD } from '../traits.ts'

export const cnameWildcard: Rule = {
  code: 'cname/wildcard',
  severity: 'advice',
  source: 'RFC 4592 §4.3',
  title: 'CNAME at a wildcard',
  why: 'Every name that does not exist follows it, including the names of services and policies such as _dmarc or _sip._tcp: whatever is at the target answers for them, too.',
  remedy: 'If you mean hosts, write addresses at the wildcard instead.',
  bad: ['* CNAME site\nsite A 192.0.2.10'],
  good: ['* A 192.0.2.10\nwww CNAME site\nsite A 192.0.2.10'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: WILDCARD,
        visit(set, cx) {
          if (!cx.zones.tree.isWildcard(set.owner)) return
          cx.report({
            record: set.records[0],
            part: 'owner',
            message: `every name below ${cx.name(cx.zones.tree.parent(set.owner))} that does not exist resolves to ${cx.name(cx.zones.target(set.records[0]!))}`,
            effect: 'So do names of services and policies that do not exist.',
            fix: [`replace it with the addresses of ${cx.name(cx.zones.target(set.records[0]!))}`],
          })
        },
      },
    },
  },
}

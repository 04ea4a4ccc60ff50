import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { WILDCARD } from '../traits.ts'

export const wildcardDelegation: Rule = {
  code: 'wildcard/delegation',
  severity: 'error',
  source: 'RFC 4592 §4.2',
  title: 'NS records at a wildcard',
  why: 'Delegating a wildcard is undefined. Some servers refuse the whole zone; others, and resolvers, treat it differently.',
  remedy: 'Delegate each name separately.',
  bad: ['*.isle NS ns1.upland-dns.example.\n*.isle NS ns2.upland-dns.example.'],
  good: ['isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.'],
  visit: {
    set: {
      [TYPE.NS]: {
        when: WILDCARD,
        visit(set, cx) {
          if (!cx.zones.tree.isWildcard(set.owner)) return
          cx.report({
            record: set.records[0],
            part: 'owner',
            message: `${cx.name(set.owner)} is a wildcard with NS records`,
            effect: 'Some servers refuse the whole zone; the others disagree on what it means.',
            fix: ['delegate each name separately'],
          })
        },
      },
    },
  },
}

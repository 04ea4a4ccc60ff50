import { listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { WILDCARD } from '../traits.ts'
import { exchanges, onMx } from './visits.ts'

export const mxWildcard: Rule = {
  code: 'mx/wildcard',
  severity: 'advice',
  source: 'RFC 4592 §4, RFC 1912 §2.7',
  title: 'MX at a wildcard',
  why: 'It accepts mail for every name that does not exist, misspelled ones included, and for no name that does: a host that has only an address is not covered.',
  remedy: 'Write an MX set at each name that should receive mail.',
  bad: ['*.lake MX 10 mx.larkpost.example.'],
  good: ['news MX 10 mx.larkpost.example.\n*.lake A 192.0.2.10'],
  visit: onMx(WILDCARD, (set, cx) => {
    if (!cx.zones.tree.isWildcard(set.owner) || exchanges(cx.zones, set).length === 0) return
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `mail for every name below ${cx.name(cx.zones.tree.parent(set.owner))} that does not exist goes to ${listed(set.records.map((record) => cx.name(cx.zones.target(record))))}`,
      effect: 'Mail to misspelled names is accepted, and names that exist are not covered.',
      fix: ['write MX records at the names that should receive mail'],
    })
  }),
}

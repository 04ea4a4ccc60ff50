import type { NameId } from '../../names/tree.ts'
import { hasStrayStar } from '../look.ts'
import type { Rule } from '../rule.ts'
import { STRAY_STAR } from '../traits.ts'

export const wildcardNotLeftmost: Rule = {
  code: 'wildcard/not-leftmost',
  severity: 'advice',
  source: 'RFC 4592 §2.1.1',
  title: '“*” that is not the whole leftmost label',
  why: 'Only a leftmost label that consists of “*” alone is a wildcard. Elsewhere it is an ordinary character, and nobody asks for that name.',
  remedy: 'Write a wildcard as the whole leftmost label, or write each name separately.',
  silences: ['name/not-a-host-name'],
  bad: ['lake*.pier A 192.0.2.10', 'www.*.pier A 192.0.2.10'],
  good: ['*.pier A 192.0.2.10'],
  visit: {
    record: {
      when: STRAY_STAR,
      visit(record, cx) {
        const owner = cx.zones.owner(record)
        if (!hasStrayStar(cx.zones.tree, owner)) return
        const told = cx.memory(() => new Set<NameId>())
        if (told.has(owner)) return
        told.add(owner)
        cx.report({
          record,
          part: 'owner',
          message: `“*” in ${cx.name(owner)} is not a wildcard`,
          effect: 'The record exists only at a name with a literal “*”, which nobody looks up.',
          fix: ['make “*” the whole leftmost label, or write each name separately'],
        })
      },
    },
  },
}

import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { withoutText } from '../shared/without-text.ts'
import { SCOPED } from '../traits.ts'
import { RUA } from './examples.ts'
import { isAt } from './reading.ts'

export const dmarcAliasWithoutPolicy: Rule = {
  code: 'dmarc/alias-without-policy',
  severity: 'error',
  source: 'RFC 7489 §6.6.3',
  title: 'an alias at _dmarc whose target has no text',
  why: 'Receivers follow the alias, find nothing, and take it that there is no policy.',
  remedy: 'Write the policy at the target, or the target that is meant.',
  silences: ['cname/target-missing'],
  bad: ['_dmarc CNAME policy', '_dmarc CNAME policy\npolicy A 192.0.2.10'],
  good: [
    `_dmarc CNAME policy\npolicy TXT "v=DMARC1; p=none; ${RUA}"`,
    '_dmarc CNAME hollowmere.dmarc.larkpost.example.',
  ],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: SCOPED,
        visit(set, cx) {
          if (isAt(cx.zones, set.owner, '_dmarc')) withoutText(cx, set.records[0]!, 'policy')
        },
      },
    },
  },
}

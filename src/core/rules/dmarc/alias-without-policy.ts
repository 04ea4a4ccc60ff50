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
  title: 'CNAME at _dmarc whose target has no DMARC record',
  why: 'Receivers follow the CNAME, find nothing, and conclude that there is no policy.',
  remedy: 'Write the DMARC record at the target, or point the CNAME at the right name.',
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

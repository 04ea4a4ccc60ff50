import { isDmarc } from '../../mail/dmarc/record.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { policies, reportSeveral } from '../shared/several.ts'
import { SEVERAL } from '../traits.ts'

export const dmarcSeveral: Rule = {
  code: 'dmarc/several',
  severity: 'error',
  source: 'RFC 7489 §6.6.3',
  title: 'more than one DMARC record at a name',
  why: 'Receivers that find several apply none: the domain is as unprotected as without a policy.',
  remedy: 'Keep the right one.',
  effect: 'Receivers apply none of them.',
  bad: [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:dmarc@larkpost.example"',
  ],
  good: ['_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example"\n_dmarc TXT "ferry-proof=41c2"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SEVERAL,
        visit(set, cx) {
          if (!/^_dmarc\./i.test(cx.name(set.owner))) return
          reportSeveral(cx, set, 'DMARC records', policies(set, cx, isDmarc))
        },
      },
    },
  },
}

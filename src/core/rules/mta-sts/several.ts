import { isSts } from '../../mail/transport.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { policies, reportSeveral } from '../shared/several.ts'
import { SCOPED } from '../traits.ts'
import { HOST } from './example.ts'
import { NO_POLICY, STS_TEXTS } from './reading.ts'

export const mtaStsSeveral: Rule = {
  code: 'mta-sts/several',
  severity: 'error',
  source: 'RFC 8461 §3.1',
  title: 'more than one MTA-STS record',
  why: 'Senders that find several conclude that there is no policy.',
  remedy: 'Keep one.',
  effect: NO_POLICY,
  bad: [`_mta-sts TXT "v=STSv1; id=1"\n_mta-sts TXT "v=STSv1; id=2"\n${HOST}`],
  good: [`_mta-sts TXT "v=STSv1; id=1"\n${HOST}`],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          if (STS_TEXTS.isAt?.(cx.zones, set.owner)) reportSeveral(cx, set, 'records', policies(set, cx, isSts))
        },
      },
    },
  },
}

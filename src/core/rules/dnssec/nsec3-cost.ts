import { TYPE } from '../../records/types.ts'
import { nsec3 } from '../../records/views.ts'
import type { Rule } from '../rule.ts'

export const dnssecNsec3Cost: Rule = {
  code: 'dnssec/nsec3-cost',
  severity: 'advice',
  source: 'RFC 9276 §3.1',
  title: 'NSEC3 with iterations or a salt',
  why: 'Neither makes names harder to guess in practice; both cost servers and resolvers time. Some resolvers treat zones with many iterations as unsigned.',
  remedy: 'Sign without iterations and without a salt: NSEC3PARAM 1 0 0 -',
  bad: ['@ NSEC3PARAM 1 0 10 AABB'],
  good: ['@ NSEC3PARAM 1 0 0 -'],
  visit: {
    set: {
      [TYPE.NSEC3PARAM](set, cx) {
        for (const record of set.records) {
          const { iterations, salt } = nsec3(cx.zones.rdata(record))
          if (iterations === 0 && salt === 0) continue
          cx.report({
            record,
            part: 2,
            message: `NSEC3 of ${cx.name(set.owner)} has ${iterations} iterations and ${salt === 0 ? 'no salt' : `a salt of ${salt} octets`}`,
            effect: 'Every negative answer costs more time, and nothing is protected.',
            fix: [`${cx.name(set.owner)} NSEC3PARAM 1 0 0 -`],
          })
        }
      },
    },
  },
}

import { ROOT } from '../../names/tree.ts'
import { addressesAt } from '../look.ts'
import type { Rule } from '../rule.ts'
import { TOP_TARGET } from '../traits.ts'
import { onMx } from './visits.ts'

export const mxTargetFollowsTop: Rule = {
  code: 'mx/target-follows-apex',
  severity: 'advice',
  source: 'practice',
  title: 'MX target that is the zone apex',
  why: 'The apex address is usually that of the web site. When the site moves, the mail of everyone whose MX points there moves with it, unnoticed.',
  remedy: 'Give the mail host a name of its own, and point the MX there.',
  bad: ['@ MX 10 @\n@ A 192.0.2.10\nwww CNAME @'],
  good: ['@ MX 10 mail\n@ A 192.0.2.10\nmail A 192.0.2.25\nwww CNAME @'],
  visit: onMx(TOP_TARGET, (set, cx) => {
    for (const record of set.records) {
      const target = cx.zones.target(record)
      const zone = target === ROOT ? undefined : cx.zones.zoneOf(target)
      if (zone?.apex !== target || addressesAt(cx.zones, target).length === 0) continue
      cx.report({
        record,
        part: 1,
        message: `the MX target of ${cx.name(set.owner)} is ${cx.name(target)}, a zone apex`,
        effect: 'Moving the web site also moves the mail.',
        fix: addressesAt(cx.zones, target)
          .map((each) => `mail.${cx.name(target)} ${cx.record(each)}`)
          .concat(`${cx.name(set.owner)} ${cx.withTarget(record, `mail.${cx.name(target)}`)}`),
      })
    }
  }),
}

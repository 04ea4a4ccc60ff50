import { isSpf } from '../../mail/spf/record.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { line } from '../text.ts'

export const spfObsoleteType: Rule = {
  code: 'spf/obsolete-type',
  severity: 'warning',
  source: 'RFC 7208 §3.1',
  title: 'record of the obsolete type SPF (99)',
  why: 'The type was abandoned: receivers look up TXT only. Two records that drift apart are confusing to maintain.',
  remedy: 'Keep the TXT record and remove the other.',
  bad: ['@ SPF "v=spf1 mx -all"', '@ SPF "v=spf1 mx -all"\n@ TXT "v=spf1 mx -all"'],
  good: ['@ TXT "v=spf1 mx -all"'],
  visit: {
    set: {
      [TYPE.SPF](set, cx) {
        const { zones } = cx
        const text = joined(zones.rdata(set.records[0]!))
        const isTwice = zones
          .records(set.owner, TYPE.TXT, set.zone.index)
          .some((each) => isSpf(joined(zones.rdata(each))))
        cx.report({
          record: set.records[0],
          part: 'type',
          message: `${cx.name(set.owner)} has a record of type SPF`,
          effect: 'Receivers look up TXT only.',
          fix: isTwice
            ? [`remove it: ${cx.name(set.owner)} has its SPF record as TXT`]
            : [line(cx, set.records[0]!, text)],
        })
      },
    },
  },
}

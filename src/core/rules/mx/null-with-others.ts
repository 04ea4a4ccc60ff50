import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { NULL_TARGET } from '../traits.ts'

export const mxNullWithOthers: Rule = {
  code: 'mx/null-with-others',
  severity: 'error',
  source: 'RFC 7505 §3',
  title: 'null MX next to other MX records',
  why: 'The null MX says that the domain accepts no mail at all; the other record says that it does. Senders differ in which one they follow, and mail is lost.',
  remedy: 'Keep the null MX alone, or remove it.',
  bad: ['@ MX 0 .\n@ MX 10 mail\nmail A 192.0.2.25'],
  good: ['@ MX 0 .\n@ TXT "v=spf1 -all"', '@ MX 0 mail\n@ MX 10 mail2\nmail A 192.0.2.25\nmail2 A 192.0.2.26'],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NULL_TARGET,
        visit(set, cx) {
          const nulls = set.records.filter((record) => cx.zones.target(record) === ROOT)
          const others = set.records.filter((record) => cx.zones.target(record) !== ROOT)
          if (nulls.length === 0 || others.length === 0) return
          cx.report({
            record: nulls[0],
            part: 1,
            message: `${cx.name(set.owner)} has a null MX and also ${others.map((record) => `${cx.record(record)} (${cx.where(record, nulls[0])})`).join(', ')}`,
            effect: 'Some senders conclude that the domain accepts no mail; others deliver.',
            fix: [
              `keep only: ${cx.name(set.owner)} MX 0 .`,
              `or remove: ${cx.name(set.owner)} ${cx.record(nulls[0]!)}`,
            ],
          })
        },
      },
    },
  },
}

import type { Rule } from '../rule.ts'
import { NULL_TARGET } from '../traits.ts'
import { isNull, onMx, preference } from './visits.ts'

export const mxNullPreference: Rule = {
  code: 'mx/null-preference',
  severity: 'warning',
  source: 'RFC 7505 §3',
  title: 'null MX with a preference other than 0',
  why: 'The null MX is “0 .”. Senders that compare exactly treat any other number as a host that cannot be found, and queue the mail for days.',
  remedy: 'Write MX 0 .',
  bad: ['@ MX 10 .\n@ TXT "v=spf1 -all"'],
  good: ['@ MX 0 .\n@ TXT "v=spf1 -all"'],
  visit: onMx(NULL_TARGET, (set, cx) => {
    const record = set.records[0]!
    if (set.records.length > 1 || !isNull(cx.zones, record) || preference(cx.zones, record) === 0) return
    cx.report({
      record,
      part: 0,
      message: `the null MX of ${cx.name(set.owner)} has preference ${preference(cx.zones, record)}`,
      effect: 'Some senders do not recognize it as a null MX and try to deliver.',
      fix: [`${cx.name(set.owner)} MX 0 .`],
      repair: cx.rewriting(record, 0, '0'),
    })
  }),
}

import { letsSend } from '../../mail/spf/record.ts'
import { isReverse, spfAt } from '../look.ts'
import type { Rule } from '../rule.ts'
import { NULL_TARGET } from '../traits.ts'
import { isNull, onMx } from './visits.ts'

export const mxNullYetSends: Rule = {
  code: 'mx/null-yet-sends',
  severity: 'warning',
  source: 'RFC 7505 §4.2',
  title: 'null MX at a domain whose SPF allows senders, or that has no SPF',
  why: 'Nobody can reply to a domain that accepts no mail, so receivers reject mail from it. Without “v=spf1 -all”, anyone can send in the domain’s name.',
  remedy: 'If the domain does no mail, write v=spf1 -all. If it sends mail, give it an MX host.',
  bad: ['@ MX 0 .\n@ TXT "v=spf1 ip4:192.0.2.25 -all"', '@ MX 0 .'],
  good: ['@ MX 0 .\n@ TXT "v=spf1 -all"', '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"'],
  visit: onMx(NULL_TARGET, (set, cx) => {
    if (!set.records.every((record) => isNull(cx.zones, record)) || isReverse(set.zone)) return
    const spf = spfAt(cx.zones, set.owner)
    if (spf === undefined ? set.zone.complete === false : !letsSend(spf)) return
    cx.report({
      record: set.records[0],
      message:
        spf === undefined
          ? `${cx.name(set.owner)} accepts no mail (null MX) but has no SPF record that says that it sends none`
          : `${cx.name(set.owner)} accepts no mail (null MX) but its SPF record allows senders: ${spf.slice(0, 120)}`,
      effect:
        spf === undefined
          ? 'Anyone can send in its name.'
          : 'Receivers reject mail from domains that cannot receive replies.',
      fix: [`${cx.name(set.owner)} TXT "v=spf1 -all"`],
    })
  }),
}

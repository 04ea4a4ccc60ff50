import { TYPE } from '../../records/types.ts'
import { isOfMail } from '../look.ts'
import type { Rule } from '../rule.ts'
import { hasSpf, textLine } from '../text.ts'
import { NO_SPF } from '../traits.ts'

export const spfWildcardExchange: Rule = {
  code: 'spf/wildcard-exchange',
  severity: 'advice',
  source: 'RFC 7208 §4, §10',
  title: 'wildcard MX without an SPF record at the wildcard',
  why: 'Every made-up name below the domain accepts mail, so it looks like a domain that may send, and no record says otherwise.',
  remedy: 'Write an SPF record at the wildcard.',
  bad: ['* MX 10 mx.larkpost.example.'],
  good: ['* MX 10 mx.larkpost.example.\n* TXT "v=spf1 -all"'],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NO_SPF,
        visit(set, cx) {
          if (!cx.zones.tree.isWildcard(set.owner) || hasSpf(cx.zones, set.owner) || !isOfMail(cx.zones, set.zone))
            return
          cx.report({
            record: set.records[0],
            part: 'owner',
            message: `${cx.name(set.owner)} has MX records but no SPF record`,
            effect: 'Anyone can send as any name below it.',
            fix: [textLine(cx.name(set.owner), 'v=spf1 -all'), 'if nothing sends as such a name'],
          })
        },
      },
    },
  },
}

import { isSpf, letsSend } from '../../mail/spf/record.ts'
import { bare, foldName } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import { hasKeys, isPrivate, isReverse, spfAt } from '../look.ts'
import type { Rule } from '../rule.ts'
import { hasSpf } from '../text.ts'
import { AT_TOP } from '../traits.ts'
import { GOOD } from './examples.ts'
import { READ } from './reading.ts'

export const dkimNone: Rule = {
  code: 'dkim/none',
  severity: 'advice',
  source: 'practice',
  title: 'sending domain without a DKIM key record',
  why: 'SPF fails when mail is forwarded; a DKIM signature survives. Large receivers require both from bulk senders.',
  remedy: 'Have the mail server sign, and publish its key record, or a CNAME to it.',
  bad: [
    '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
  ],
  good: [
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\n${GOOD}`,
    '@ TXT "v=spf1 -all"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:d@larkpost.example"',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: AT_TOP,
        visit(set, cx) {
          const { zones } = cx
          if (
            set.owner !== set.zone.apex ||
            !hasSpf(zones, set.owner) ||
            set.zone.complete === false ||
            isPrivate(cx.zones, set.zone) ||
            isReverse(set.zone)
          )
            return
          if (!letsSend(spfAt(zones, set.owner) ?? '') || hasKeys(zones, set.owner)) return
          const record = set.records.find((each) => isSpf(READ.of(zones, each).text))
          if (record === undefined) return
          cx.report({
            record,
            message: `${cx.name(set.owner)} sends mail but has no DKIM key record`,
            effect: 'Forwarded mail fails SPF, and has no signature to fall back on.',
            fix: [
              `ask your mail provider for its DKIM records; for a mail server of your own: bramblefront write dkim ${bare(foldName(set.zone.name))} --selector SELECTOR`,
            ],
          })
        },
      },
    },
  },
}

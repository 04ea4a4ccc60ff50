import { bare } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { dmarcBelow, isOfMail } from '../look.ts'
import type { Rule } from '../rule.ts'
import { hasSpf } from '../text.ts'
import { AT_TOP } from '../traits.ts'
import { policy, RUA } from './examples.ts'
import { doesNoMail, READ } from './reading.ts'

export const dmarcUndefended: Rule = {
  code: 'dmarc/undefended',
  severity: 'advice',
  source: 'RFC 7505 §4.2, RFC 7208 §10, RFC 7489',
  title: 'non-mail domain not fully locked down (null MX, SPF -all, DMARC reject)',
  why: 'A domain that nobody sends from is attractive to forgers, because nobody watches its mail. A null MX, v=spf1 -all and p=reject together close it.',
  remedy: 'Write all three with: bramblefront write no-mail DOMAIN',
  silences: ['dmarc/missing'],
  bad: [
    `@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`,
    `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=none; ${RUA}`)}`,
  ],
  good: [
    `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`,
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n${policy(`v=DMARC1; p=none; ${RUA}`)}`,
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: AT_TOP,
        visit(set, cx) {
          const { zones } = cx
          const top = set.owner
          if (top !== set.zone.apex || !hasSpf(zones, top) || !isOfMail(cx.zones, set.zone) || !doesNoMail(zones, top))
            return
          const found = dmarcBelow(zones, top)
          const rejects =
            found !== NONE &&
            (zones.hasCname(found) ||
              zones.records(found, TYPE.TXT).some((each) => READ.of(zones, each).record.policy === 'reject'))
          const lacks = [...(zones.has(top, TYPE.MX) ? [] : ['a null MX']), ...(rejects ? [] : ['p=reject'])]
          if (lacks.length === 0) return
          cx.report({
            record: set.records.find((each) => /^v=spf1/i.test(joined(zones.rdata(each)))) ?? set.records[0],
            also: zones.records(top, TYPE.MX),
            message: `${cx.name(top)} does no mail but lacks ${lacks.join(' and ')}`,
            effect:
              lacks.length === 2 || !rejects
                ? 'Receivers accept forged mail in its name.'
                : 'Senders try to deliver to its addresses for days before they give up.',
            fix: [`bramblefront write no-mail ${bare(cx.name(top))}`],
          })
        },
      },
    },
  },
}

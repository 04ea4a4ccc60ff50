import { TYPE } from '../../records/types.ts'
import { frontOf } from '../fronts.ts'
import type { Rule } from '../rule.ts'

/** Names at which mail programs expect a text, and a web front has none. */
const MAIL_LABEL = /^(?:_dmarc|_domainkey|_mta-sts|_smtp|_report|_tlsrpt)$/

export const cnameFrontForMail: Rule = {
  code: 'cname/front-for-mail',
  severity: 'error',
  source: 'practice',
  title: 'CNAME used by mail that leads to a web front',
  why: 'A web front answers with its own addresses and nothing else. The key or policy behind the CNAME cannot be read, and signatures fail.',
  remedy: 'Point the CNAME at the name that the mail provider gave you, bypassing the web front.',
  bad: [
    {
      zones: { 'hollowmere.example': 'lark1._domainkey CNAME site.northlight.example.' },
      around: { fronts: [{ label: 'northlight', ranges: [], names: ['site.northlight.example'] }] },
    },
  ],
  good: [
    {
      zones: {
        'hollowmere.example': 'lark1._domainkey CNAME lark1.keys.larkpost.example.\nwww CNAME site.northlight.example.',
      },
      around: { fronts: [{ label: 'northlight', ranges: [], names: ['site.northlight.example'] }] },
    },
  ],
  visit: {
    applies: ({ around }) => (around.fronts?.length ?? 0) > 0,
    set: {
      [TYPE.CNAME](set, cx) {
        let mail = false
        for (let here = set.owner; here > 0; here = cx.zones.tree.parent(here))
          mail ||= MAIL_LABEL.test(cx.zones.tree.labelText(here))
        const front = mail ? frontOf(cx, cx.zones.target(set.records[0]!)) : undefined
        if (!front) return
        cx.report({
          record: set.records[0],
          part: 0,
          message: `${cx.name(set.owner)} leads to ${cx.name(cx.zones.target(set.records[0]!))}, ${front}`,
          effect: 'Receivers find no key or policy there.',
          fix: ['point it at the name that the mail provider gave you'],
        })
      },
    },
  },
}

import { locate, locateName, MISSING } from '../../knowledge/answer.ts'
import { isSpf, readSpf } from '../../mail/spf/record.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { missing } from '../shared/known-targets.ts'
import { LOST_TARGET, NAMES_DOMAIN } from '../traits.ts'

export const keptTargetMissing: Rule = {
  code: 'zones/target-missing',
  severity: 'warning',
  source: 'RFC 7208 §4.6.4; RFC 1912 §2.1',
  title: 'SPF or PTR refers to a name that does not exist in your zones',
  why: 'An a: or mx: term for such a name allows nobody to send, and three of them break the record; a PTR record leads nowhere.',
  remedy: 'Write the right name, or remove the term.',
  silences: ['ptr/forward-missing'],
  bad: [
    '@ TXT "v=spf1 a:out.hollowmere.example -all"',
    {
      zones: {
        'hollowmere.example': '@ TXT "v=spf1 mx:mail.lakepass.example -all"',
        'lakepass.example': 'www A 192.0.2.10',
      },
    },
    { zones: { 'hollowmere.example': 'www A 192.0.2.10', '2.0.192.in-addr.arpa': '10 PTR web.hollowmere.example.' } },
  ],
  good: [
    '@ TXT "v=spf1 a:out.hollowmere.example include:_spf.larkpost.example -all"\nout A 192.0.2.25',
    '@ TXT "v=spf1 a:%{i}._spf.hollowmere.example -all"',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: NAMES_DOMAIN,
        visit(set, cx) {
          for (const record of set.records) {
            const text = joined(cx.zones.rdata(record))
            if (!isSpf(text)) continue
            for (const { name, domain: value = '', text: term } of readSpf(text).record.mechanisms) {
              if ((name !== 'a' && name !== 'mx') || value === '' || value.includes('%')) continue
              const target = value.endsWith('.') ? value : `${value}.`
              if (locateName(cx.zones, target) !== MISSING) continue
              cx.report({
                record,
                part: 0,
                message: `${term} in the SPF record of ${cx.name(set.owner)}: ${target} does not exist in your zones`,
                effect: 'The term allows nobody.',
                fix: [`write ${target}, or remove ${term}`],
              })
            }
          }
        },
      },
      [TYPE.PTR]: {
        when: LOST_TARGET,
        visit(set, cx) {
          for (const record of set.records)
            if (locate(cx.zones, cx.zones.target(record)) === MISSING) missing(cx, record, 0)
        },
      },
    },
  },
}

import { locateName, MISSING } from '../../knowledge/answer.ts'
import { GIVES_UP, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { troubles } from './budget.ts'

export const spfIncludeWithoutRecord: TextRule<SpfReading> = {
  code: 'spf/include-without-record',
  severity: 'error',
  source: 'RFC 7208 §5.2, §6.1',
  title: 'SPF include or redirect to a name in your zones without an SPF record',
  why: 'An include without a record is a permanent error (permerror) for the whole record.',
  remedy: 'Write the record there, or remove the term.',
  effect: GIVES_UP,
  bad: [
    '@ TXT "v=spf1 include:_spf.hollowmere.example -all"',
    '@ TXT "v=spf1 include:www.hollowmere.example -all"\nwww A 192.0.2.10',
    '@ TXT "v=spf1 include:_spf.%{d2} -all"',
    '@ TXT "v=spf1 include:_spf.%{o} -all"',
    {
      zones: {
        'hollowmere.example': '@ TXT "v=spf1 redirect=_spf.lakepass.example"',
        'lakepass.example': 'www A 192.0.2.10',
      },
    },
  ],
  good: [
    '@ TXT "v=spf1 include:_spf.hollowmere.example -all"\n_spf TXT "v=spf1 ip4:192.0.2.25"',
    '@ TXT "v=spf1 include:_spf.larkpost.example -all"',
    '@ TXT "v=spf1 include:%{i}._spf.hollowmere.example -all"',
  ],
  inZone(cx, record, reading, set) {
    if (!reading.leads) return
    const domain = cx.name(set.owner)
    for (const { term, part, below } of troubles(cx, record, reading, domain))
      if (below.trouble === 'none' && below === part)
        reportText(cx, record, term, {
          code: 'spf/include-without-record',
          message: `SPF at ${domain}: ${term.text} leads to ${below.name}, which ${locateName(cx.zones, below.name!) === MISSING ? 'does not exist' : 'has no SPF record'}`,
          fix: [`write an SPF record at ${below.name}, or remove ${term.text}`],
        })
  },
}

import { GIVES_UP, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { troubles } from './budget.ts'

export const spfLoop: TextRule<SpfReading> = {
  code: 'spf/loop',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'SPF include or redirect loop',
  why: 'Receivers follow it until the tenth lookup and give up on the record.',
  remedy: 'Remove the term that closes the loop.',
  effect: GIVES_UP,
  silences: ['spf/too-many-lookups', 'spf/lookups-near-limit'],
  bad: ['@ TXT "v=spf1 include:hollowmere.example -all"'],
  good: [
    '@ TXT "v=spf1 include:_one.hollowmere.example include:_two.hollowmere.example -all"\n_one TXT "v=spf1 ip4:192.0.2.25"\n_two TXT "v=spf1 include:_one.hollowmere.example"',
  ],
  inZone(cx, record, reading, set) {
    if (!reading.leads) return
    const domain = cx.name(set.owner)
    for (const { term, below } of troubles(cx, record, reading, domain))
      if (below.trouble === 'loop')
        reportText(cx, record, term, {
          code: 'spf/loop',
          message: `SPF at ${domain}: ${term.text} leads back to ${below.name === domain ? 'itself' : below.name}`,
          fix: [`remove ${below.term} from the record in which it closes the loop`],
        })
  },
}

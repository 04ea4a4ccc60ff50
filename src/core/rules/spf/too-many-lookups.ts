import { MAX_LOOKUPS } from '../../mail/spf/check-host.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { budgetOf, needs } from './budget.ts'

export const spfTooManyLookups: TextRule<SpfReading> = {
  code: 'spf/too-many-lookups',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'SPF record that needs more than 10 lookups, includes counted',
  why: 'Each include, a, mx, ptr, exists and redirect costs one, in included records, too. Receivers stop at the eleventh and give up on the record: mail fails although its sender is listed.',
  remedy:
    'Remove senders that are no longer used, write addresses instead of names, or send newsletters from a subdomain.',
  effect: 'At the eleventh lookup, receivers give up on the whole record (permerror).',
  bad: [
    `@ TXT "v=spf1 ${Array.from({ length: 11 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`,
    `@ TXT "v=spf1 mx a include:_spf.hollowmere.example -all"\n@ MX 10 mx.larkpost.example.\n@ A 192.0.2.10\n_spf TXT "v=spf1 ${Array.from({ length: 8 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`,
  ],
  good: [`@ TXT "v=spf1 ${Array.from({ length: 10 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  inZone(cx, record, reading, set) {
    if (!reading.leads) return
    const domain = cx.name(set.owner)
    const budget = budgetOf(cx, record, reading, domain)
    if (budget.total <= MAX_LOOKUPS) return
    reportText(
      cx,
      record,
      { start: 0, end: reading.text.length },
      {
        code: 'spf/too-many-lookups',
        message: `SPF at ${domain} ${needs(budget)}`,
        fix: [
          'remove senders that are no longer used; replace a: and mx: terms with addresses (ip4:, ip6:); let a service send from a subdomain of its own',
        ],
      },
    )
  },
}

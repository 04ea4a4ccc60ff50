import { MAX_LOOKUPS } from '../../mail/spf/check-host.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { budgetOf, needs } from './budget.ts'

/** From here on, one more service is too many. */
const NEAR = 8

export const spfLookupsNearLimit: TextRule<SpfReading> = {
  code: 'spf/lookups-near-limit',
  severity: 'advice',
  source: 'RFC 7208 §4.6.4',
  title: 'SPF record that needs 8 or more of 10 lookups',
  why: 'A service that adds an include to its own record uses up your lookups, and nobody tells you.',
  remedy: 'Make room before you need it.',
  effect: 'With one more service, or one more include at an existing one, receivers give up on the record.',
  bad: [`@ TXT "v=spf1 ${Array.from({ length: 8 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  good: [`@ TXT "v=spf1 ${Array.from({ length: 7 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  inZone(cx, record, reading, set) {
    if (!reading.leads) return
    const domain = cx.name(set.owner)
    const budget = budgetOf(cx, record, reading, domain)
    if (budget.total < NEAR || budget.total > MAX_LOOKUPS) return
    reportText(
      cx,
      record,
      { start: 0, end: reading.text.length },
      {
        code: 'spf/lookups-near-limit',
        message: `SPF at ${domain} ${needs(budget)}`,
        fix: ['remove what is no longer used before you add the next sender'],
      },
    )
  },
}

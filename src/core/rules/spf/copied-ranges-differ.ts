import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

const SPELLED = '_spf TXT "v=spf1 ip4:192.0.2.0/26 ip4:192.0.2.128/27 ~all"'

export const spfCopiedRanges: Rule = {
  code: 'spf/copied-ranges-differ',
  severity: 'warning',
  source: 'practice',
  title: 'addresses that were copied from an include, which has others now',
  why: 'An include is read anew for each message; what was copied from it stays as it was. New servers of the service then fail, and old addresses may be somebody else’s.',
  remedy: 'Copy them anew, or go back to the include.',
  bad: [
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/26\n@ TXT "v=spf1 ip4:192.0.2.0/26 -all"\n${SPELLED}`,
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/25\n@ TXT "v=spf1 ip4:192.0.2.0/25 ip4:192.0.2.128/27 -all"\n${SPELLED}`,
  ],
  good: [
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/26 ip4:192.0.2.128/27\n@ TXT "v=spf1 ip4:192.0.2.0/26 ip4:192.0.2.128/27 mx -all"\n${SPELLED}`,
    '; copied from include:_spf.larkpost.example on 2026-01-05: ip4:192.0.2.0/26\n@ TXT "v=spf1 ip4:192.0.2.0/26 -all"',
  ],
  visit: VISIT,
}

import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcTagValue: Rule = {
  code: 'dmarc/tag-value',
  severity: 'error',
  source: 'RFC 7489 §6.3',
  title: 'a tag with a value that it cannot have',
  why: 'What receivers do then is not the same everywhere: some take the default, some drop the record.',
  remedy: 'Write one of its values.',
  bad: ['adkim=strict', 'aspf=x', 'fo=2', 'pct=150', 'ri=daily', 't=yes'].map((each) =>
    policy(`v=DMARC1; p=none; ${RUA}; ${each}`),
  ),
  good: [policy(`v=DMARC1; p=none; ${RUA}; adkim=s; aspf=r; fo=1:d; ri=3600; rf=afrf; psd=n`)],
  visit: VISIT,
}

import type { TextRule } from '../shared/text-rules.ts'
import { policy, RUA } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcTagValue: TextRule<DmarcReading> = {
  code: 'dmarc/tag-value',
  severity: 'error',
  source: 'RFC 7489 §6.3',
  title: 'DMARC tag with an invalid value',
  why: 'Receivers differ in what they do then: some use the default, others ignore the record.',
  remedy: 'Use one of the tag’s allowed values.',
  effect: 'Receivers ignore the tag, or the whole record.',
  bad: ['adkim=strict', 'aspf=x', 'fo=2', 'pct=150', 'ri=daily', 't=yes'].map((each) =>
    policy(`v=DMARC1; p=none; ${RUA}; ${each}`),
  ),
  good: [policy(`v=DMARC1; p=none; ${RUA}; adkim=s; aspf=r; fo=1:d; ri=3600; rf=afrf; psd=n`)],
}

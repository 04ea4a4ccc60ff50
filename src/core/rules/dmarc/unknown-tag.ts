import type { TextRule } from '../shared/text-rules.ts'
import { policy, RUA } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcUnknownTag: TextRule<DmarcReading> = {
  code: 'dmarc/unknown-tag',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'unknown DMARC tag',
  why: 'Receivers ignore it. Often it is a misspelled tag that was meant to do something.',
  remedy: 'Write the right tag, or remove this one.',
  effect: 'Receivers ignore it.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}; policy=reject`)],
  good: [policy(`v=DMARC1; p=none; ${RUA}; np=none; psd=n; t=n`)],
}

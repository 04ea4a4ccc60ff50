import type { TextRule } from '../shared/text-rules.ts'
import { policy, RUA } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcUnknownTag: TextRule<DmarcReading> = {
  code: 'dmarc/unknown-tag',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a tag that receivers do not know',
  why: 'They pass it over. It is often a mis-typed one that was meant to do something.',
  remedy: 'Write the tag that was meant, or take it out.',
  effect: 'It changes nothing.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}; policy=reject`)],
  good: [policy(`v=DMARC1; p=none; ${RUA}; np=none; psd=n; t=n`)],
}

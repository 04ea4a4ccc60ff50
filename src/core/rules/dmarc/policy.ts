import type { TextRule } from '../shared/text-rules.ts'
import { policy, RUA } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcPolicy: TextRule<DmarcReading> = {
  code: 'dmarc/policy',
  severity: 'error',
  source: 'RFC 7489 §6.3, §6.6.3, §7.1; RFC 9091',
  title: 'DMARC record with a missing or invalid policy',
  why: 'With a valid rua, receivers treat it as p=none; without one, they ignore the record.',
  remedy: 'Write p=none, p=quarantine or p=reject.',
  effect: 'Receivers do not apply the intended policy.',
  bad: [
    policy(`v=DMARC1; ${RUA}`),
    policy(`v=DMARC1; p=block; ${RUA}`),
    policy('v=DMARC1'),
    policy(`v=DMARC1; p=reject; sp=all; ${RUA}`),
  ],
  good: [policy(`v=DMARC1; p=reject; sp=reject; np=reject; ${RUA}`), 'lakepass.example._report._dmarc TXT "v=DMARC1"'],
}

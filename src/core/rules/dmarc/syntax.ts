import type { TextRule } from '../shared/text-rules.ts'
import { policy, RUA } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcSyntax: TextRule<DmarcReading> = {
  code: 'dmarc/syntax',
  severity: 'error',
  source: 'RFC 7489 §6.3, §6.4',
  title: 'malformed DMARC record',
  why: 'It must begin with v=DMARC1, exactly so, and be a list of tags. Receivers ignore anything else.',
  remedy: 'Begin with v=DMARC1; and separate the tags with semicolons.',
  effect: 'Receivers ignore it: the domain has no policy.',
  silences: ['dmarc/policy', 'dmarc/no-reports'],
  bad: [
    policy(`p=none; ${RUA}`),
    policy(`v=dmarc1; p=none; ${RUA}`),
    policy(`p=none; v=DMARC1; ${RUA}`),
    policy(`v=DMARC1; p=none; ${RUA}; p=none`),
  ],
  good: [
    policy(`v=DMARC1; p=none; ${RUA};`),
    policy(`v = DMARC1 ;p=none;${RUA}`),
    `${policy(`v=DMARC1; p=none; ${RUA}`)}\n_dmarc TXT "ferry-proof=41c2"`,
  ],
}

import type { TextRule } from '../shared/text-rules.ts'
import { policy, RUA } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcSyntax: TextRule<DmarcReading> = {
  code: 'dmarc/syntax',
  severity: 'error',
  source: 'RFC 7489 §6.3, §6.4',
  title: 'a policy that receivers do not take for one',
  why: 'It must begin with v=DMARC1, in these letters, and be a list of tags. Anything else is passed over.',
  remedy: 'Begin with v=DMARC1; and part the tags with semicolons.',
  effect: 'Receivers pass it over: the domain has no policy.',
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

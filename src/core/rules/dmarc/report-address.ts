import type { TextRule } from '../shared/text-rules.ts'
import { policy } from './examples.ts'
import type { DmarcReading } from './reading.ts'

export const dmarcReportAddress: TextRule<DmarcReading> = {
  code: 'dmarc/report-address',
  severity: 'warning',
  source: 'RFC 7489 §6.2',
  title: 'DMARC report address that no reports reach',
  why: 'Report addresses are URIs separated by commas: each begins with mailto: and contains no unescaped “,” or “!”.',
  remedy: 'Write mailto: followed by the address.',
  effect: 'No reports arrive.',
  bad: [
    'dmarc@larkpost.example',
    'mailto:larkpost.example',
    'https://larkpost.example/reports',
    'mailto:d@larkpost.example!big',
    'mailto:d@larkpost.example,',
  ].map((each) => policy(`v=DMARC1; p=none; rua=${each}`)),
  good: [policy('v=DMARC1; p=none; rua=mailto:d@larkpost.example!10m,mailto:e@larkpost.example')],
}

import type { TextRule } from '../shared/text-rules.ts'
import type { TransportReading } from '../shared/transport-text.ts'
import { NO_REPORTS } from './reading.ts'

export const tlsRptSyntax: TextRule<TransportReading> = {
  code: 'tls-rpt/syntax',
  severity: 'error',
  source: 'RFC 8460 §3',
  title: 'a record at _smtp._tls that senders cannot read',
  why: 'It says where reports of failed encryption go. One that cannot be read gets none.',
  remedy: 'Write v=TLSRPTv1; rua=mailto: and an address.',
  effect: NO_REPORTS,
  bad: [
    '_smtp._tls TXT "v=TLSRPTv1;"',
    '_smtp._tls TXT "v=TLSRPTv1; rua=tls@larkpost.example"',
    '_smtp._tls TXT "v=TLSRPT1; rua=mailto:tls@larkpost.example"',
  ],
  good: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:tls@larkpost.example,https://larkpost.example/tls"'],
}

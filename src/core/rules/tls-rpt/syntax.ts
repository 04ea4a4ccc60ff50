import type { TextRule } from '../shared/text-rules.ts'
import type { TransportReading } from '../shared/transport-text.ts'
import { NO_REPORTS } from './reading.ts'

export const tlsRptSyntax: TextRule<TransportReading> = {
  code: 'tls-rpt/syntax',
  severity: 'error',
  source: 'RFC 8460 §3',
  title: 'malformed TLS-RPT record',
  why: 'The record says where reports about failed encryption go. One that cannot be parsed gets no reports.',
  remedy: 'Write v=TLSRPTv1; rua=mailto:ADDRESS',
  effect: NO_REPORTS,
  bad: [
    '_smtp._tls TXT "v=TLSRPTv1;"',
    '_smtp._tls TXT "v=TLSRPTv1; rua=tls@larkpost.example"',
    '_smtp._tls TXT "v=TLSRPT1; rua=mailto:tls@larkpost.example"',
  ],
  good: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:tls@larkpost.example,https://larkpost.example/tls"'],
}

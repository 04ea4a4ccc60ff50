import type { Rule } from '../rule.ts'
import { VISIT } from '../shared/transport.ts'

export const tlsRptSeveral: Rule = {
  code: 'tls-rpt/several',
  severity: 'error',
  source: 'RFC 8460 §3',
  title: 'more than one record at _smtp._tls',
  why: 'Senders that find several send no reports.',
  remedy: 'Keep one; several addresses stand in it with commas between them.',
  bad: [
    '_smtp._tls TXT "v=TLSRPTv1; rua=mailto:a@larkpost.example"\n_smtp._tls TXT "v=TLSRPTv1; rua=mailto:b@larkpost.example"',
  ],
  good: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:a@larkpost.example"'],
  visit: VISIT,
}

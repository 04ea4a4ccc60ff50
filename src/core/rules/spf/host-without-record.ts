import type { Rule } from '../rule.ts'
import { EXCHANGES } from './hosts.ts'

export const spfHostWithoutRecord: Rule = {
  code: 'spf/host-without-record',
  severity: 'advice',
  source: 'RFC 7208 §2.3, §10.1.3',
  title: 'MX host that also sends but has no SPF record of its own',
  why: 'Bounces have no envelope sender. Receivers then check the host’s own name (from EHLO).',
  remedy: 'Write v=spf1 a -all at the host’s name.',
  bad: [
    '@ MX 10 mail\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25',
  ],
  good: [
    '@ MX 10 mail\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 include:_spf.larkpost.example -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25',
  ],
  visit: EXCHANGES,
}

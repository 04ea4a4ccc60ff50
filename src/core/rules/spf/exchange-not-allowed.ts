import type { Rule } from '../rule.ts'
import { EXCHANGES } from './hosts.ts'

export const spfExchangeNotAllowed: Rule = {
  code: 'spf/exchange-not-allowed',
  severity: 'advice',
  source: 'practice',
  title: 'MX host that also sends but is not allowed by the domain’s SPF record',
  why: 'A host with an SPF record of its own, or a submission service, sends mail. What it sends for the domain fails SPF.',
  remedy: 'Add mx, or the host, to the record.',
  bad: [
    '@ MX 10 mail\n@ TXT "v=spf1 ip4:192.0.2.99 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 ip4:192.0.2.99 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\n_submissions._tcp SRV 0 1 465 mail\n_imaps._tcp SRV 0 1 993 mail',
  ],
  good: [
    '@ MX 10 mail\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 ip4:192.0.2.0/24 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 include:_spf.larkpost.example -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
  ],
  visit: EXCHANGES,
}

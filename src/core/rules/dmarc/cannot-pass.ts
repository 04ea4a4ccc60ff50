import type { Rule } from '../rule.ts'
import { policy, RUA, VISIT } from './visit.ts'

export const dmarcCannotPass: Rule = {
  code: 'dmarc/cannot-pass',
  severity: 'error',
  source: 'RFC 7489 §3.1',
  title: 'quarantine or reject on a domain of which no mail can pass',
  why: 'DMARC needs SPF or DKIM to pass with the domain’s own name. With neither, the policy hits all of its mail.',
  remedy: 'Publish who sends, or the key that signs, or step back to p=none.',
  silences: ['spf/missing'],
  bad: [
    `@ MX 10 mx.larkpost.example.\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
  ],
  good: [
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 -all"\ns1._domainkey CNAME s1.keys.larkpost.example.\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
    `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
  ],
  visit: VISIT,
}

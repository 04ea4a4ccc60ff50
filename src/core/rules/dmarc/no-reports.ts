import type { TextRule } from '../shared/text-rules.ts'
import { line, reportText } from '../text.ts'
import { policy, RUA } from './examples.ts'
import { type DmarcReading, doesNoMail, domainOf, placeOf } from './reading.ts'

export const dmarcNoReports: TextRule<DmarcReading> = {
  code: 'dmarc/no-reports',
  severity: 'warning',
  source: 'RFC 7489 §6.3',
  title: 'DMARC record without a report address',
  why: 'Reports show who sends in the domain’s name and what passes. Without them, a stricter policy is a gamble.',
  remedy: 'Add rua=mailto: and an address that somebody, or a service, reads.',
  effect: 'Nobody finds out who sends in its name, or that its own mail fails.',
  bad: [policy('v=DMARC1; p=quarantine'), `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`],
  good: [policy(`v=DMARC1; p=quarantine; ${RUA}`)],
  inZone(cx, record, reading) {
    const { record: policy, text } = reading
    if (policy.rua.length > 0 || policy.policy === undefined) return
    const domain = domainOf(cx.zones, cx.zones.owner(record))
    reportText(cx, record, placeOf(reading, ''), {
      code: 'dmarc/no-reports',
      severity: doesNoMail(cx.zones, domain) ? 'advice' : 'warning',
      message: `the DMARC record of ${cx.name(domain)} has no rua=`,
      fix: [line(cx, record, `${text.trimEnd().replace(/;$/, '')}; rua=mailto:ADDRESS`)],
    })
  },
}

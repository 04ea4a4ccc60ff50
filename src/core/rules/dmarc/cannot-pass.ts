import { letsSend, readSpf } from '../../mail/spf/record.ts'
import { NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { hasKeys, spfAt } from '../look.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText, textLine } from '../text.ts'
import { policy, RUA } from './examples.ts'
import { type DmarcReading, domainOf, placeOf } from './reading.ts'

export const dmarcCannotPass: TextRule<DmarcReading> = {
  code: 'dmarc/cannot-pass',
  severity: 'error',
  source: 'RFC 7489 §3.1',
  title: 'DMARC policy of quarantine or reject on a domain whose mail cannot pass',
  why: 'DMARC needs SPF or DKIM to pass with the domain’s own name. With neither in place, the policy hits all of its mail.',
  remedy: 'Publish SPF or a DKIM key record for the senders, or go back to p=none.',
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
  inZone(cx, record, reading, set) {
    const { zones } = cx
    const { policy } = reading.record
    if (policy !== 'quarantine' && policy !== 'reject') return
    const domain = domainOf(zones, set.owner)
    if (set.zone.complete === false || hasKeys(zones, domain) || zones.first(domain) === NONE) return
    const spf = spfAt(zones, domain)
    const receives = zones.records(domain, TYPE.MX).some((each) => zones.target(each) !== ROOT)
    // Without exchange and without SPF, nothing says that it is meant to send; an SPF record that lets somebody send may align.
    if (!receives || (spf !== undefined && letsSend(spf)) || (spf !== undefined && readSpf(spf).problems.length > 0))
      return
    reportText(cx, record, placeOf(reading, 'p'), {
      code: 'dmarc/cannot-pass',
      // An SPF record that lets nobody send says that the domain only receives.
      severity: spf === undefined ? undefined : 'advice',
      message: `${cx.name(domain)} receives mail and has p=${policy}, but neither ${spf === undefined ? 'an SPF record' : 'an SPF record that allows a sender'} nor a DKIM key record`,
      effect: policy === 'reject' ? 'Receivers reject all mail from it.' : 'Receivers quarantine all mail from it.',
      fix:
        spf === undefined
          ? [textLine(cx.name(domain), 'v=spf1 mx ~all'), 'or publish the DKIM key record that its mail is signed with']
          : [
              'if the domain only receives mail, leave it; otherwise list its senders in the SPF record, or publish its DKIM key record',
            ],
    })
  },
}

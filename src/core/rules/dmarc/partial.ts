import { bare } from '../../names/name.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { policy, RUA } from './examples.ts'
import { type DmarcReading, domainOf, placeOf } from './reading.ts'

export const dmarcPartial: TextRule<DmarcReading> = {
  code: 'dmarc/partial',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'DMARC policy that applies to only part of the mail (pct=)',
  why: 'pct is for trying out a policy. The rest of the failing mail is delivered, and receivers that follow the newer standard ignore pct.',
  remedy: 'Remove pct when the trial is over.',
  effect: 'The rest is delivered; receivers that follow RFC 9989 apply the policy to all of it.',
  bad: [policy(`v=DMARC1; p=quarantine; pct=20; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; pct=100; ${RUA}`)],
  inZone(cx, record, reading) {
    const { record: policy } = reading
    if (policy.percent >= 100 || policy.policy === 'none' || policy.policy === undefined) return
    const name = cx.name(domainOf(cx.zones, cx.zones.owner(record)))
    reportText(cx, record, placeOf(reading, 'pct'), {
      code: 'dmarc/partial',
      message: `the DMARC policy of ${name} applies to ${policy.percent} of 100 failing messages`,
      fix: [
        `when none of your own mail has been quarantined or rejected: bramblefront write dmarc ${bare(name)} --next`,
      ],
    })
  },
}

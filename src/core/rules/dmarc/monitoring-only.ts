import { nextStep } from '../../mail/dmarc/steps.ts'
import { bare } from '../../names/name.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { policy, RUA } from './examples.ts'
import { type DmarcReading, domainOf, placeOf } from './reading.ts'

export const dmarcMonitoringOnly: TextRule<DmarcReading> = {
  code: 'dmarc/monitoring-only',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'monitoring-only DMARC policy (p=none)',
  why: 'p=none asks for reports and changes nothing for mail. It is the first step, not the last.',
  remedy: 'When the reports show that all your mail passes, take the next step: quarantine, then reject.',
  effect: 'Forged mail in its name is delivered as before.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; ${RUA}`)],
  inZone(cx, record, reading) {
    const { record: policy, text } = reading
    const watches = policy.tags.some((each) => each.name === 'p' && each.value.toLowerCase() === 'none')
    if (policy.policy !== 'none' || !watches || policy.testing) return
    const name = cx.name(domainOf(cx.zones, cx.zones.owner(record)))
    const step = nextStep(text, { reports: ['mailto:ADDRESS'] })
    reportText(cx, record, placeOf(reading, 'p'), {
      code: 'dmarc/monitoring-only',
      message: `the DMARC policy of ${name} is p=none (monitoring only)`,
      fix: [
        'text' in step
          ? `when ${step.first[0]}: bramblefront write dmarc ${bare(name)} --next`
          : 'correct the record first',
      ],
    })
  },
}

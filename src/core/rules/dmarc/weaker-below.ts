import { strictness, withTags } from '../../mail/dmarc/record.ts'
import { bare } from '../../names/name.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { line, reportText } from '../text.ts'
import { policy, RUA } from './examples.ts'
import { type DmarcReading, domainOf, placeOf } from './reading.ts'

export const dmarcWeakerBelow: TextRule<DmarcReading> = {
  code: 'dmarc/weaker-below',
  severity: 'warning',
  source: 'RFC 7489 §6.3',
  title: 'DMARC record with a weaker policy for subdomains',
  why: 'Forgers use a made-up name below the domain, which looks just as good to people.',
  remedy: 'Remove sp= (or np=): the domain’s own policy then applies to subdomains, too.',
  bad: [policy(`v=DMARC1; p=reject; sp=none; ${RUA}`), policy(`v=DMARC1; p=reject; np=none; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; sp=reject; ${RUA}`)],
  inZone(cx, record, reading) {
    const { record: policy, text } = reading
    for (const [key, value] of [
      ['sp', policy.below],
      ['np', policy.missing],
    ] as const) {
      if (value === undefined || strictness(value) >= strictness(policy.policy)) continue
      const name = cx.name(domainOf(cx.zones, cx.zones.owner(record)))
      reportText(cx, record, placeOf(reading, key), {
        code: 'dmarc/weaker-below',
        message: `the DMARC policy of ${name} is ${policy.policy}, but ${key}=${value} is weaker for ${key === 'np' ? 'names that do not exist' : 'its subdomains'}`,
        effect: `Forgers use a name below ${bare(name)}.`,
        fix: [line(cx, record, withTags(text, { [key]: undefined }))],
      })
    }
  },
}

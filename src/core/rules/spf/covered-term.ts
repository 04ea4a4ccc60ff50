import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'
import { repeats } from './repeats.ts'

export const spfCoveredTerm: TextRule<SpfReading> = {
  code: 'spf/covered-term',
  severity: 'advice',
  source: 'practice',
  title: 'SPF address or range inside another range of the record',
  why: 'It adds nothing and makes the record longer.',
  remedy: 'Remove it.',
  effect: 'The record is longer than necessary.',
  bad: ['ip4:192.0.2.0/24 ip4:192.0.2.25 -all', 'ip6:2001:db8::/48 ip6:2001:db8::/32 -all'].map(bare),
  good: ['ip4:192.0.2.0/25 ip4:192.0.2.200 -all', '-ip4:192.0.2.25 ip4:192.0.2.0/24 -all'].map(bare),
  *inText({ record }) {
    for (const { term, name, outer, whole } of repeats(record))
      if (outer)
        yield {
          ...placeOf(term),
          message: `${name} is already covered by ${outer}`,
          whole,
        }
  },
}

import { maskedRange } from '../../mail/spf/merge.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfHostBits: TextRule<SpfReading> = {
  code: 'spf/host-bits',
  severity: 'advice',
  source: 'RFC 7208 §5.6',
  title: 'SPF address with bits beyond its prefix length',
  why: 'They are ignored. If a single address was intended, 255 others are allowed as well.',
  remedy: 'Write the range as it is, or the single address.',
  effect: 'A single address or another range may have been intended.',
  bad: ['ip4:192.0.2.25/24 -all', 'ip6:2001:db8::1/32 -all'].map(bare),
  good: ['ip4:192.0.2.0/24 ip4:192.0.2.25/32 -all'].map(bare).map((each) => each.replace(' ip4:192.0.2.25/32', '')),
  *inText({ record }) {
    for (const term of record?.mechanisms ?? []) {
      const masked = maskedRange(term)
      if (masked)
        yield {
          ...placeOf(term),
          message: `${term.text} is the range ${masked.replace(/^ip[46]:/, '')}: bits beyond the prefix length are ignored`,
          wanted: masked,
        }
    }
  },
}

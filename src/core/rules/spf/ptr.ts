import { spfText } from '../../mail/spf/record.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfPtr: TextRule<SpfReading> = {
  code: 'spf/ptr',
  severity: 'warning',
  source: 'RFC 7208 §5.5',
  title: 'SPF term ptr',
  why: 'It causes many reverse lookups, is slow, and should not be published. Large receivers skip it.',
  remedy: 'List the hosts or ranges.',
  effect: 'It is slow, and large receivers skip it.',
  bad: ['ptr -all', 'ptr:hollowmere.example -all'].map(bare),
  good: ['a:out.larkpost.example -all'].map(bare),
  *inText({ record }) {
    for (const term of record?.mechanisms ?? [])
      if (term.name === 'ptr')
        yield {
          ...placeOf(term),
          message: `${term.text} allows every host whose PTR name is below the domain`,
          whole: spfText(record!.terms.filter((each) => each !== term)),
        }
  },
}

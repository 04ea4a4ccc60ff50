import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'
import { repeats } from './repeats.ts'

export const spfDuplicateTerm: TextRule<SpfReading> = {
  code: 'spf/duplicate-term',
  severity: 'advice',
  source: 'practice',
  title: 'duplicate SPF term',
  why: 'Each include or a costs a lookup, the second time as well.',
  remedy: 'Keep the first.',
  effect: 'It costs a second lookup and adds nothing.',
  bad: ['include:_spf.larkpost.example mx include:_SPF.larkpost.example -all'].map(bare),
  good: ['include:_spf.larkpost.example include:_spf.quillwing.example -all'].map(bare),
  *inText({ record }) {
    for (const { term, name, outer, whole } of repeats(record))
      if (!outer) yield { ...placeOf(term), message: `${name} appears twice`, whole }
  },
}

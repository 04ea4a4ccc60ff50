import { spfText } from '../../mail/spf/record.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfRedirectIgnored: TextRule<SpfReading> = {
  code: 'spf/redirect-ignored',
  severity: 'warning',
  source: 'RFC 7208 §6.1',
  title: 'SPF redirect next to “all”',
  why: 'A redirect applies only if nothing matches, and “all” always matches.',
  remedy: 'Remove “all”, or the redirect.',
  effect: 'Receivers ignore the redirect.',
  bad: ['mx redirect=_spf.larkpost.example ~all'].map(bare),
  good: ['mx redirect=_spf.larkpost.example'].map(bare),
  *inText({ record }) {
    const { all, redirect, terms = [] } = record ?? {}
    if (all && redirect)
      yield {
        ...placeOf(redirect),
        message: `${redirect.text} is next to ${all.text}`,
        whole: spfText(terms.filter((each) => each !== redirect)),
      }
  },
}

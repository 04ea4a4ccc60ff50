import { isMeantAsMechanism } from '../../mail/spf/record.ts'
import { shortened } from '../../mail/tags.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { placeOf, type TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfMechanismAsModifier: TextRule<SpfReading> = {
  code: 'spf/mechanism-as-modifier',
  severity: 'warning',
  source: 'RFC 7208 §6',
  title: 'SPF term with “=” instead of a colon',
  why: 'With “=” it is a modifier. Receivers know redirect= and exp= and ignore all others: the hosts that were meant do not pass.',
  remedy: 'Write a colon.',
  effect: 'Receivers ignore it as an unknown modifier: it allows nobody.',
  bad: ['include=_spf.larkpost.example ~all', 'mx ip4=192.0.2.0/24 -all'].map(bare),
  good: ['include:_spf.larkpost.example ~all', 'mx moo=ferry -all'].map(bare),
  *inText({ record }) {
    for (const term of record?.terms ?? [])
      if (term.kind === 'modifier' && isMeantAsMechanism(term))
        yield {
          ...placeOf(term),
          message: `${shortened(term.text)} has “=” instead of a colon`,
          wanted: `${term.name}:${term.value}`,
        }
  },
}

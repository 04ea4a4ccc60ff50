import { GIVES_UP, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfModifierTwice: TextRule<SpfReading> = {
  code: 'spf/modifier-twice',
  severity: 'error',
  source: 'RFC 7208 §6',
  title: 'SPF modifier redirect or exp that appears twice',
  why: 'Each may appear once. Twice is an error of the whole record.',
  remedy: 'Keep one.',
  effect: GIVES_UP,
  bad: [
    'redirect=_spf.larkpost.example redirect=_spf.quillwing.example',
    'exp=a.larkpost.example exp=b.larkpost.example -all',
  ].map(bare),
  good: ['moo=1 moo=2 exp=a.larkpost.example -all'].map(bare),
}

import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfDuplicateTerm: Rule = {
  code: 'spf/duplicate-term',
  severity: 'advice',
  source: 'practice',
  title: 'a term that is there twice',
  why: 'Each include or a costs a lookup, also the second time.',
  remedy: 'Keep the first.',
  bad: ['include:_spf.larkpost.example mx include:_SPF.larkpost.example -all'].map(bare),
  good: ['include:_spf.larkpost.example include:_spf.quillwing.example -all'].map(bare),
  visit: VISIT,
}

import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfPtr: Rule = {
  code: 'spf/ptr',
  severity: 'warning',
  source: 'RFC 7208 §5.5',
  title: 'the term ptr',
  why: 'It loads the reverse tree with questions, is slow, and should not be published. Large receivers skip it.',
  remedy: 'List the hosts or ranges.',
  bad: ['ptr -all', 'ptr:hollowmere.example -all'].map(bare),
  good: ['a:out.larkpost.example -all'].map(bare),
  visit: VISIT,
}

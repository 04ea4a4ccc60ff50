import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfRedirectIgnored: Rule = {
  code: 'spf/redirect-ignored',
  severity: 'warning',
  source: 'RFC 7208 §6.1',
  title: 'a redirect beside “all”',
  why: 'A redirect counts only where nothing matches, and “all” always does.',
  remedy: 'Take “all” out, or the redirect.',
  bad: ['mx redirect=_spf.larkpost.example ~all'].map(bare),
  good: ['mx redirect=_spf.larkpost.example'].map(bare),
  visit: VISIT,
}

import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfAfterAll: Rule = {
  code: 'spf/after-all',
  severity: 'warning',
  source: 'RFC 7208 §5.1',
  title: 'terms behind “all”',
  why: 'Receivers stop at “all”. Senders that were added behind it do not pass.',
  remedy: 'Put them in front of it.',
  bad: ['mx ~all include:_spf.larkpost.example', '-all ip4:192.0.2.25'].map(bare),
  good: ['mx -all exp=why.larkpost.example'].map(bare),
  visit: VISIT,
}

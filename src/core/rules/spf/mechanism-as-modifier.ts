import type { Rule } from '../rule.ts'
import { bare, VISIT } from './visit.ts'

export const spfMechanismAsModifier: Rule = {
  code: 'spf/mechanism-as-modifier',
  severity: 'warning',
  source: 'RFC 7208 §6',
  title: 'a term of SPF with “=” in place of the colon',
  why: 'With “=” it is a modifier. Receivers know redirect= and exp=, and pass over all others: the hosts that were meant do not pass.',
  remedy: 'Write a colon.',
  bad: ['include=_spf.larkpost.example ~all', 'mx ip4=192.0.2.0/24 -all'].map(bare),
  good: ['include:_spf.larkpost.example ~all', 'mx moo=ferry -all'].map(bare),
  visit: VISIT,
}

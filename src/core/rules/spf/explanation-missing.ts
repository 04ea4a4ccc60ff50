import type { Rule } from '../rule.ts'
import { VISIT } from './visit.ts'

export const spfExplanationMissing: Rule = {
  code: 'spf/explanation-missing',
  severity: 'advice',
  source: 'RFC 7208 §6.2',
  title: 'an explanation (exp=) that is not there',
  why: 'Receivers that would tell the sender why find nothing to tell.',
  remedy: 'Write the text at the name, or take exp= out.',
  bad: ['@ TXT "v=spf1 mx -all exp=why.hollowmere.example"'],
  good: [
    '@ TXT "v=spf1 mx -all exp=why.hollowmere.example"\nwhy TXT "See www.hollowmere.example"',
    '@ TXT "v=spf1 mx -all exp=why.larkpost.example"',
  ],
  visit: VISIT,
}

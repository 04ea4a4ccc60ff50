import { locateName, UNKNOWN } from '../../knowledge/answer.ts'
import { targetOf } from '../../mail/spf/budget.ts'
import { TYPE } from '../../records/types.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText, textLine } from '../text.ts'

export const spfExplanationMissing: TextRule<SpfReading> = {
  code: 'spf/explanation-missing',
  severity: 'advice',
  source: 'RFC 7208 §6.2',
  title: 'SPF explanation (exp=) that does not exist',
  why: 'Receivers that want to tell the sender why the mail failed find nothing.',
  remedy: 'Write the text at that name, or remove exp=.',
  effect: 'Senders that fail are not told why.',
  bad: ['@ TXT "v=spf1 mx -all exp=why.hollowmere.example"'],
  good: [
    '@ TXT "v=spf1 mx -all exp=why.hollowmere.example"\nwhy TXT "See www.hollowmere.example"',
    '@ TXT "v=spf1 mx -all exp=why.larkpost.example"',
  ],
  inZone(cx, record, { record: spf }, set) {
    const exp = spf?.exp
    if (!exp) return
    const { zones } = cx
    const target = targetOf(exp, cx.name(set.owner))
    const node = target === undefined ? UNKNOWN : locateName(zones, target)
    if (node === UNKNOWN || (node >= 0 && (zones.has(node, TYPE.TXT) || zones.hasCname(node)))) return
    reportText(cx, record, exp, {
      code: 'spf/explanation-missing',
      message: `SPF at ${cx.name(set.owner)}: ${exp.text}, but ${target} has no TXT record`,
      fix: [textLine(target!, 'Mail of this domain comes from other hosts.')],
    })
  },
}

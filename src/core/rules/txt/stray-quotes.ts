import { strings as stringsIn } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { quoted } from '../text.ts'
import { QUOTE_FIRST } from '../traits.ts'
import { onText, restating, utf8 } from './visits.ts'

export const txtStrayQuotes: Rule = {
  code: 'txt/stray-quotes',
  severity: 'warning',
  source: 'practice',
  title: 'TXT record with quotes inside its value',
  why: 'The value was pasted with its quotes into a form that adds quotes itself. The published text begins with a quote, and nobody recognizes it.',
  remedy: 'Write the text with one pair of quotes around it.',
  bad: ['@ TXT "\\"ferry-proof=41c2\\""', '@ TXT "\\"v=spf1 -all\\""'],
  good: ['@ TXT "ferry-proof=41c2"', '@ TXT "the \\"Heron\\" sails"'],
  visit: onText(QUOTE_FIRST, (record, cx) => {
    const joined = stringsIn(cx.zones.rdata(record)).join('')
    if (joined.length < 2 || !joined.startsWith('"') || !joined.endsWith('"')) return
    const inside = joined.slice(1, -1)
    const clean = inside.includes('"') || inside.length > 255 ? undefined : [inside]
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} contains quotes: ${utf8(joined).slice(0, 80)}`,
      effect: 'They are published as part of the value.',
      fix: [clean ? `${cx.name(cx.zones.owner(record))} TXT ${quoted(clean)}` : 'remove the inner quotes'],
      repair: clean && restating(cx, record, clean),
    })
  }),
}

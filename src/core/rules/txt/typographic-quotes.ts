import { latin1Of } from '../../names/octets.ts'
import { strings as stringsIn } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { quoted } from '../text.ts'
import { NOT_ASCII } from '../traits.ts'
import { onText, restating, utf8 } from './visits.ts'

const toLatin1 = (text: string): string =>
  latin1Of(new TextEncoder().encode(text), 0, new TextEncoder().encode(text).length)

const TYPOGRAPHIC = /[\u2018\u2019\u201a\u201b\u201c\u201d\u201e\u201f\u00ab\u00bb\u2039\u203a]/

const WHOLE = /^[\u201c\u201d\u201e\u201f\u00ab\u00bb]([\s\S]*)[\u201c\u201d\u201e\u201f\u00ab\u00bb]$/

export const txtTypographicQuotes: Rule = {
  code: 'txt/typographic-quotes',
  severity: 'warning',
  source: 'practice',
  title: 'typographic quotes in a TXT record',
  why: 'A word processor or mail program replaced the plain quotes. Whoever reads the record sees them as part of the value.',
  remedy: 'Write plain quotes around the text, and none inside it.',
  silences: ['txt/unquoted-spaces', 'txt/not-ascii'],
  bad: ['@ TXT “ferry-proof=41c2”', '@ TXT "“ferry-proof=41c2”"', '@ TXT "say ‘ferry’"'],
  good: ['@ TXT "ferry-proof=41c2"', '@ TXT "die Fähre am See"'],
  visit: onText(NOT_ASCII, (record, cx) => {
    const strings = stringsIn(cx.zones.rdata(record)).map(utf8)
    const [sign] = TYPOGRAPHIC.exec(strings.join('')) ?? []
    if (sign === undefined) return
    const inside = WHOLE.exec(strings.join(' '))?.[1]
    const clean =
      inside !== undefined && !TYPOGRAPHIC.test(inside) && strings.join(' ').length <= 255
        ? [toLatin1(inside)]
        : undefined
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} contains ${sign}: ${strings.join(' ').slice(0, 80)}`,
      effect: 'The character is part of the published value, which no longer matches.',
      fix: [clean ? `${cx.name(cx.zones.owner(record))} TXT ${quoted(clean)}` : 'use plain characters instead'],
      repair: clean && restating(cx, record, clean),
    })
  }),
}

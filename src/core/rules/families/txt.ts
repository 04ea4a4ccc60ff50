/** Texts that were pasted with what does not belong in them. */

import { entryParts } from '../../file/entry.ts'
import { GENERATED, type RecordId } from '../../model/zones.ts'
import { latin1Of, textOf } from '../../names/octets.ts'
import { TYPE } from '../../records/types.ts'
import { strings as stringsIn } from '../../records/views.ts'
import type { Context, Rule } from '../rule.ts'
import { quoted } from '../text.ts'
import { CONTROL, NOT_ASCII, QUOTE_FIRST, SEVERAL_STRINGS } from '../traits.ts'

/** Visits the texts of sets with such a trait. */
const onText = (when: number, visit: (record: RecordId, cx: Context) => void): Rule['visit'] => ({
  set: {
    [TYPE.TXT]: {
      when,
      visit(set, cx) {
        for (const record of set.records) visit(record, cx)
      },
    },
  },
})

/** The strings of a record in place of what was written, where that is one value after the other on one line. */
function restating(cx: Context, record: RecordId, strings: readonly string[]): ReturnType<Context['rewriting']> {
  if (cx.zones.flags(record) & GENERATED) return undefined
  const source = cx.zones.source(record)
  const { values } = entryParts(cx.zones, record)
  if (values.length === 0) return undefined
  const [start, end] = [values[0][0], values[values.length - 1][1]]
  const between = values.slice(1).some(([from], i) => !/^[ \t]*$/.test(latin1Of(source.octets, values[i][1], from)))
  return between ? undefined : { at: { source, start, end }, text: quoted(strings) }
}

const utf8 = (latin1: string): string => textOf(Uint8Array.from(latin1, (sign) => sign.charCodeAt(0)))
const toLatin1 = (text: string): string => latin1Of(new TextEncoder().encode(text), 0, new TextEncoder().encode(text).length)

const TYPOGRAPHIC = /[\u2018\u2019\u201a\u201b\u201c\u201d\u201e\u201f\u00ab\u00bb\u2039\u203a]/
const WHOLE = /^[\u201c\u201d\u201e\u201f\u00ab\u00bb]([\s\S]*)[\u201c\u201d\u201e\u201f\u00ab\u00bb]$/

export const txtTypographicQuotes: Rule = {
  code: 'txt/typographic-quotes',
  severity: 'warning',
  source: 'practice',
  title: 'typographic quotes in a text',
  why: 'A word processor or a mail program made them of plain quotes. To whoever reads the record they are part of the value, which is then another one.',
  remedy: 'Write plain quotes around the text, and none in it.',
  silences: ['txt/unquoted-spaces', 'txt/not-ascii'],
  bad: ['@ TXT “ferry-proof=41c2”', '@ TXT "“ferry-proof=41c2”"', '@ TXT "say ‘ferry’"'],
  good: ['@ TXT "ferry-proof=41c2"', '@ TXT "die Fähre am See"'],
  visit: onText(NOT_ASCII, (record, cx) => {
    const strings = stringsIn(cx.zones.rdata(record)).map(utf8)
    const [sign] = TYPOGRAPHIC.exec(strings.join('')) ?? []
    if (sign === undefined) return
    const inside = WHOLE.exec(strings.join(' '))?.[1]
    const clean = inside !== undefined && !TYPOGRAPHIC.test(inside) && strings.join(' ').length <= 255 ? [toLatin1(inside)] : undefined
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} has ${sign} in it: ${strings.join(' ').slice(0, 80)}`,
      consequence: 'The sign is part of the value: whoever compares it finds another one.',
      fix: [clean ? `${cx.name(cx.zones.owner(record))} TXT ${quoted(clean)}` : 'write plain signs in its place'],
      repair: clean && restating(cx, record, clean),
    })
  }),
}

export const txtNotAscii: Rule = {
  code: 'txt/not-ascii',
  severity: 'advice',
  source: 'RFC 1035 §5.1',
  title: 'octets beyond ASCII in a text, written as they are',
  why: 'A zone file is ASCII; other octets are written as a backslash and three digits. Most servers read them all the same; some refuse the whole file.',
  remedy: 'Write each such octet as \\DDD. What is published stays the same.',
  bad: ['@ TXT "die Fähre am See"'],
  good: ['@ TXT "die F\\195\\164hre am See"'],
  visit: onText(NOT_ASCII, (record, cx) => {
    if (cx.zones.flags(record) & GENERATED) return
    const { octets } = cx.zones.source(record)
    if (!entryParts(cx.zones, record).values.some(([start, end]) => octets.subarray(start, end).some((octet) => octet > 0x7f))) return
    const strings = stringsIn(cx.zones.rdata(record))
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} has octets beyond ASCII in it: ${utf8(strings.join('')).slice(0, 80)}`,
      consequence: 'Some servers refuse the file.',
      fix: [`${cx.name(cx.zones.owner(record))} TXT ${quoted(strings)}`],
      repair: restating(cx, record, strings),
    })
  }),
}

export const txtStrayQuotes: Rule = {
  code: 'txt/stray-quotes',
  severity: 'warning',
  source: 'practice',
  title: 'quotes inside a text, at its beginning and end',
  why: 'The value was pasted with its quotes into a form that adds quotes of its own. What is published begins with a quote, and nobody recognises it.',
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
      message: `the text at ${cx.name(cx.zones.owner(record))} has quotes in it: ${utf8(joined).slice(0, 80)}`,
      consequence: 'They are published as part of the value.',
      fix: [clean ? `${cx.name(cx.zones.owner(record))} TXT ${quoted(clean)}` : 'take the inner quotes out'],
      repair: clean && restating(cx, record, clean),
    })
  }),
}

export const txtControlCharacter: Rule = {
  code: 'txt/control-character',
  severity: 'warning',
  source: 'practice',
  title: 'a control character in a text',
  why: 'A tab or a line’s end came along when the value was pasted. It cannot be seen, and it makes the value another one.',
  remedy: 'Take it out.',
  bad: ['@ TXT "ferry-proof=\\009 41c2"', '@ TXT "ferry-proof=41c2\\010"'],
  good: ['@ TXT "ferry-proof=41c2"'],
  visit: onText(CONTROL, (record, cx) => {
    const strings = stringsIn(cx.zones.rdata(record))
    const [sign] = /[\0-\x1f\x7f]/.exec(strings.join('')) ?? []
    // Of a text that goes on over the end of a line another rule speaks.
    if (sign === undefined || endsLine(cx, record)) return
    const clean = strings.map((each) => each.replace(/[\0-\x1f\x7f]/g, ''))
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} has the control character \\${String(sign.charCodeAt(0)).padStart(3, '0')} in it`,
      consequence: 'It cannot be seen, and makes the value another one.',
      fix: [`${cx.name(cx.zones.owner(record))} TXT ${quoted(clean)}`],
    })
  }),
}

/** Whether a line ends inside a value as it is written. */
function endsLine({ zones }: Context, record: RecordId): boolean {
  if (zones.flags(record) & GENERATED) return false
  const { octets } = zones.source(record)
  return entryParts(zones, record).values.some(([start, end]) => octets.subarray(start, end).includes(0x0a))
}

export const txtUnquotedSpaces: Rule = {
  code: 'txt/unquoted-spaces',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'an unquoted text that became several strings',
  why: 'Without quotes each word is a string of its own. Programs that join strings, as for SPF, DKIM and DMARC, read the words without their spaces.',
  remedy: 'Put quotes around the text.',
  silences: ['name/placeholder', 'spf/version', 'spf/lost-space', 'spf/syntax', 'dkim/syntax', 'dmarc/syntax', 'dmarc/policy'],
  bad: ['@ TXT v=spf1 mx -all', '@ TXT hello ferry'],
  good: ['@ TXT "v=spf1 mx -all"', '@ TXT "one" "two"', '@ TXT ferry-proof=41c2'],
  visit: onText(SEVERAL_STRINGS, (record, cx) => {
    if (cx.zones.flags(record) & GENERATED) return
    const { octets } = cx.zones.source(record)
    const { values } = entryParts(cx.zones, record)
    if (values.length < 2 || values.every(([start]) => octets[start] === 0x22) || octets[values[0][0]] === 0x22) return
    // Where nothing parts them, no blank was lost.
    if (values.some(([start], i) => i > 0 && start === values[i - 1][1])) return
    const text = [stringsIn(cx.zones.rdata(record)).join(' ')]
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} is not quoted, so it is ${values.length} strings`,
      consequence: 'Programs that join them read the words without spaces between them.',
      fix: [`${cx.name(cx.zones.owner(record))} TXT ${quoted(text)}`],
      repair: text[0].length <= 255 ? restating(cx, record, text) : undefined,
    })
  }),
}

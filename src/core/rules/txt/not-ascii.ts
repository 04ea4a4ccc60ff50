import { entryParts } from '../../file/entry.ts'
import { GENERATED } from '../../model/zones.ts'
import { strings as stringsIn } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { quoted } from '../text.ts'
import { NOT_ASCII } from '../traits.ts'
import { onText, restating, utf8 } from './visits.ts'

export const txtNotAscii: Rule = {
  code: 'txt/not-ascii',
  severity: 'advice',
  source: 'RFC 1035 §5.1',
  title: 'unescaped non-ASCII octets in a TXT record',
  why: 'Zone files are ASCII; other octets are written as a backslash and three digits. Most servers accept them all the same; some refuse the whole file.',
  remedy: 'Write each such octet as \\DDD. What is published stays the same.',
  bad: ['@ TXT "die Fähre am See"'],
  good: ['@ TXT "die F\\195\\164hre am See"'],
  visit: onText(NOT_ASCII, (record, cx) => {
    if (cx.zones.flags(record) & GENERATED) return
    const { octets } = cx.zones.source(record)
    if (
      !entryParts(cx.zones, record).values.some(([start, end]) =>
        octets.subarray(start, end).some((octet) => octet > 0x7f),
      )
    )
      return
    const strings = stringsIn(cx.zones.rdata(record))
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} contains non-ASCII octets: ${utf8(strings.join('')).slice(0, 80)}`,
      effect: 'Some servers refuse the file.',
      fix: [`${cx.name(cx.zones.owner(record))} TXT ${quoted(strings)}`],
      repair: restating(cx, record, strings),
    })
  }),
}

import { entryParts } from '../../file/entry.ts'
import { GENERATED } from '../../model/zones.ts'
import { strings as stringsIn } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { quoted } from '../text.ts'
import { SEVERAL_STRINGS } from '../traits.ts'
import { onText, restating } from './visits.ts'

export const txtUnquotedSpaces: Rule = {
  code: 'txt/unquoted-spaces',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'unquoted text that became several TXT strings',
  why: 'Without quotes each word is a string of its own. Programs that join strings, as for SPF, DKIM and DMARC, read the words without their spaces.',
  remedy: 'Put quotes around the text.',
  silences: [
    'name/placeholder',
    'spf/version',
    'spf/lost-space',
    'spf/syntax',
    'dkim/syntax',
    'dmarc/syntax',
    'dmarc/policy',
  ],
  bad: ['@ TXT v=spf1 mx -all', '@ TXT hello ferry'],
  good: ['@ TXT "v=spf1 mx -all"', '@ TXT "one" "two"', '@ TXT ferry-proof=41c2'],
  visit: onText(SEVERAL_STRINGS, (record, cx) => {
    if (cx.zones.flags(record) & GENERATED) return
    const { octets } = cx.zones.source(record)
    const { values } = entryParts(cx.zones, record)
    if (values.length < 2 || values.every(([start]) => octets[start] === 0x22) || octets[values[0]![0]] === 0x22) return
    // Where nothing parts them, no blank was lost.
    if (values.some(([start], i) => i > 0 && start === values[i - 1]![1])) return
    const text = [stringsIn(cx.zones.rdata(record)).join(' ')]
    cx.report({
      record,
      part: 0,
      message: `the text at ${cx.name(cx.zones.owner(record))} is not quoted, so it became ${values.length} strings`,
      effect: 'Programs that join strings read the words without spaces between them.',
      fix: [`${cx.name(cx.zones.owner(record))} TXT ${quoted(text)}`],
      repair: text[0]!.length <= 255 ? restating(cx, record, text) : undefined,
    })
  }),
}

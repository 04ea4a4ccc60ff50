import { entryParts } from '../../file/entry.ts'
import { GENERATED, type RecordId } from '../../model/zones.ts'
import { strings as stringsIn } from '../../records/views.ts'
import type { Context, Rule } from '../rule.ts'
import { quoted } from '../text.ts'
import { CONTROL } from '../traits.ts'
import { onText } from './visits.ts'

export const txtControlCharacter: Rule = {
  code: 'txt/control-character',
  severity: 'warning',
  source: 'practice',
  title: 'control character in a TXT record',
  why: 'A tab or a line break was pasted along with the value. It is invisible, and changes the value.',
  remedy: 'Remove it.',
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
      message: `the text at ${cx.name(cx.zones.owner(record))} contains the control character \\${String(sign.charCodeAt(0)).padStart(3, '0')}`,
      effect: 'It is invisible and changes the value.',
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

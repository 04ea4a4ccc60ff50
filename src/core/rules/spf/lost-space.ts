import { parseSpf } from '../../mail/spf/record.ts'
import { shortened } from '../../mail/tags.ts'
import { GIVES_UP, type SpfReading, severalStrings } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { line, reportText } from '../text.ts'

const BEGINS = /^(?:[-+~?]?(?:(?:include|exists|ip4|ip6|a|mx|ptr):|all(?= |$))|(?:redirect|exp)=)/i

const BARE = /^[-+~?]?(?:mx|ptr|a)(?=[ /]|$)/i

export const spfLostSpace: TextRule<SpfReading> = {
  code: 'spf/lost-space',
  severity: 'error',
  source: 'RFC 7208 §3.3',
  title: 'SPF record whose strings join two terms',
  why: 'Strings are joined with nothing between them. A record that is split between two terms needs its space at the end of the first string or the beginning of the second.',
  remedy: 'Put the space inside the quotes.',
  effect: GIVES_UP,
  silences: ['spf/syntax', 'spf/neutral-end', 'spf/include-without-record'],
  bad: [
    '@ TXT "v=spf1 include:_spf.larkpost.example" "include:_spf.quillwing.example -all"',
    '@ TXT "v=spf1 include:_spf.larkpost.example" "-all"',
    '@ TXT "v=spf1 ip4:192.0.2.25" "mx -all"',
  ],
  good: [
    '@ TXT "v=spf1 include:_spf.larkpost.example" " include:_spf.quillwing.example -all"',
    '@ TXT "v=spf1 include:_spf.lark" "post.example -all"',
    '@ TXT "v=spf1 inc" "lude:_spf.larkpost.example -all"',
  ],
  inZone(cx, record, { text }) {
    if (!severalStrings(cx.zones, record)) return
    const data = cx.zones.rdata(record)
    let border = 0
    for (let at = 0; at < data.length; at += data[at]! + 1) {
      border += data[at]!
      const left = text.slice(text.lastIndexOf(' ', border - 1) + 1, border)
      const right = text.slice(border)
      const isWhole = /^[-+~?]?(?:all|mx|a|ptr)$/i.test(left) || !/^[-+~?]?[a-z0-9]*$/i.test(left)
      if (border >= text.length || !isWhole) continue
      const bare =
        BARE.test(right) &&
        parseSpf(`v=spf1 ${left}`).problems.length === 0 &&
        parseSpf(`v=spf1 ${left}${/^[^ ]*/.exec(right)![0]}`).problems.length > 0
      if (!BEGINS.test(right) && !bare) continue
      const joined = `${left}${/^[^ ]*/.exec(right)![0]}`
      reportText(
        cx,
        record,
        { start: border, end: border + 1 },
        {
          code: 'spf/lost-space',
          message: `SPF at ${cx.name(cx.zones.owner(record))}: two strings join to “${shortened(joined)}”, without a space between the terms`,
          fix: [line(cx, record, `${text.slice(0, border)} ${right}`)],
        },
      )
      return
    }
  },
}

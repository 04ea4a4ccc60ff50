import { isSpf } from '../../mail/spf/record.ts'
import { shortened } from '../../mail/tags.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'

/** Texts that were meant to be SPF records. It shows in their first few characters; blanks among these may be many. */
const MISSPELT =
  /^\s*(?:v\s{0,4}[=:]?\s{0,4}spf|spf\s{0,4}v?\s{0,4}1?[ =:]\s{0,4}(?:v=|[-+~?]?(?:all|mx|a|ip4|ip6|include)\b))/i

const VERSION = /^\s*(?:v\s{0,4}[=:]?\s{0,4})?spf\s{0,4}\.?v?\s{0,4}(?:1(?:\.0)?)?[:=;,]*\s*(?:v=spf1\s*)?/i

const FEW = 64

export const spfVersion: TextRule<SpfReading> = {
  code: 'spf/version',
  severity: 'error',
  source: 'RFC 7208 §4.5',
  title: 'text that was meant as an SPF record but does not begin with v=spf1',
  why: 'Receivers look for “v=spf1” followed by a space. Anything else is just another text: the domain has no SPF record.',
  remedy: 'Begin with v=spf1 and a space.',
  effect: {
    error: 'Receivers do not recognize it: the domain has no SPF record.',
    warning: '',
    advice: 'Receivers ignore it.',
  },
  bad: [
    '@ TXT "v=spf1; mx -all"',
    '@ TXT "spf1 mx -all"',
    '@ TXT "v=spf2 mx -all"',
    '@ TXT "v=spf1:mx -all"',
    '@ TXT "spf2.0/pra mx -all"\n@ TXT "v=spf1 mx -all"',
  ],
  good: ['@ TXT "v=spf1 mx -all"', '@ TXT "V=SPF1 -all"', '@ TXT "spfx is a ferry"'],
  *inText({ text }) {
    if (isSpf(text)) return
    if (/^spf2\.0\//i.test(text)) {
      yield {
        start: 0,
        end: text.search(/ |$/),
        severity: 'advice',
        message: 'this is a Sender ID record, which is no longer used',
        advice: 'remove it; only the v=spf1 record counts',
      }
      return
    }
    const beginning = text.slice(0, FEW)
    if (!MISSPELT.test(beginning)) return
    const version = VERSION.exec(beginning)?.[0].length ?? 0
    const end = Math.max(1, version)
    yield {
      start: 0,
      end,
      message: `“${shortened(text.slice(0, end).trim() || text)}” does not begin with v=spf1 and a space`,
      whole: `v=spf1 ${text.slice(version)}`.trim(),
    }
  },
}

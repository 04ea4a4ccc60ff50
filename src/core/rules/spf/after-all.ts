import { spfText } from '../../mail/spf/record.ts'
import { listed } from '../look.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { bare } from './examples.ts'

export const spfAfterAll: TextRule<SpfReading> = {
  code: 'spf/after-all',
  severity: 'warning',
  source: 'RFC 7208 §5.1',
  title: 'SPF terms after “all”',
  why: 'Receivers stop at “all”. Senders added after it do not pass.',
  remedy: 'Put them before it.',
  effect: 'Receivers stop at “all”: terms after it allow nobody.',
  bad: ['mx ~all include:_spf.larkpost.example', '-all ip4:192.0.2.25'].map(bare),
  good: ['mx -all exp=why.larkpost.example'].map(bare),
  *inText({ record }) {
    const { all, mechanisms = [], terms = [] } = record ?? {}
    const behind = all ? mechanisms.slice(mechanisms.indexOf(all) + 1) : []
    if (all && behind.length > 0)
      yield {
        start: behind[0]!.start,
        end: behind.at(-1)!.end,
        message: `${listed(behind.map((each) => each.text))} ${behind.length === 1 ? 'comes' : 'come'} after ${all.text}`,
        whole: spfText([
          ...mechanisms.filter((each) => each.name !== 'all'),
          all,
          ...terms.filter((each) => each.kind === 'modifier'),
        ]),
      }
  },
}

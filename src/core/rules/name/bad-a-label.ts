import type { RecordId } from '../../model/zones.ts'
import { textOf } from '../../names/octets.ts'
import { type NameId, ODD_HYPHENS_3_4 } from '../../names/tree.ts'
import type { Part, Rule } from '../rule.ts'
import { eachOddLabel, isALabel } from './labels.ts'

export const nameBadALabel: Rule = {
  code: 'name/bad-a-label',
  severity: 'error',
  source: 'RFC 5891 §4, RFC 3492',
  title: 'label with xn-- that is not a valid A-label',
  why: 'Browsers and mail programs try to decode it, fail, and reject it or show it undecoded.',
  remedy: 'Create the A-label again from the intended letters.',
  bad: ['www CNAME xn--n3h.northlight.example.', 'xn--99999999 A 192.0.2.10'],
  good: ['xn--fhre-loa A 192.0.2.10'],
  visit: {
    async finish(cx) {
      const found: [NameId, RecordId, Part][] = []
      eachOddLabel(cx, ODD_HYPHENS_3_4, isALabel, (...each) => found.push(each))
      if (found.length === 0) return
      const { toULabel } = await import('../../names/idna.ts')
      for (const [name, record, part] of found) {
        const label = textOf(cx.zones.tree.label(name))
        if (toULabel(label) !== undefined) continue
        cx.report({
          record,
          part,
          message: `${label} is not a valid A-label: it does not decode to a label that is allowed in names`,
          effect: 'Programs that decode names reject it.',
          fix: ['write the A-label of the intended letters'],
        })
      }
    },
  },
}

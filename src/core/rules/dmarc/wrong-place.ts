import type { RecordId } from '../../model/zones.ts'
import { labelsOf } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import { recordsOf } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { textLine } from '../text.ts'
import { TAGGED_TEXT } from '../traits.ts'
import { policy, RUA } from './examples.ts'
import { isAt, isConsent, READ } from './reading.ts'

/** Policies that stand where nobody asks for them, unless an alias leads there. */
const astray = (cx: Context): RecordId[] => cx.memory((): RecordId[] => [])

export const dmarcWrongPlace: Rule = {
  code: 'dmarc/wrong-place',
  severity: 'warning',
  source: 'RFC 7489 §6.1',
  title: 'DMARC record that is not at a _dmarc name',
  why: 'Receivers look at _dmarc in front of the domain and nowhere else.',
  remedy: 'Write it at _dmarc.',
  bad: [`@ TXT "v=DMARC1; p=none; ${RUA}"`, `dmarc TXT "v=DMARC1; p=none; ${RUA}"`],
  good: [
    policy(`v=DMARC1; p=none; ${RUA}`),
    '*._report._dmarc TXT "v=DMARC1"',
    `_dmarc CNAME policy\npolicy TXT "v=DMARC1; p=none; ${RUA}"`,
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: TAGGED_TEXT,
        visit(set, cx) {
          const { zones } = cx
          if (isAt(zones, set.owner, '_dmarc')) return
          for (const record of set.records)
            if (READ.of(zones, record).isPolicy && !isConsent(zones, set.owner)) astray(cx).push(record)
        },
      },
    },
    finish(cx) {
      const { zones } = cx
      if (astray(cx).length === 0) return
      const aliased = new Set(
        recordsOf(zones, TYPE.CNAME)
          .filter((record) => isAt(zones, zones.owner(record), '_dmarc'))
          .map((record) => zones.target(record)),
      )
      for (const record of astray(cx)) {
        const owner = zones.owner(record)
        // A wildcard’s policy is another rule’s.
        if (aliased.has(owner) || zones.tree.isWildcard(owner)) continue
        const labels = labelsOf(cx.name(owner))
        const domain = /^_?d-?marc/i.test(labels[0]!) ? labels.slice(1) : labels
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(owner)} has a DMARC record but is not a _dmarc name`,
          effect: 'Receivers look at _dmarc.DOMAIN and find no policy.',
          fix: [textLine(`_dmarc.${domain.join('.')}.`, READ.of(zones, record).text)],
        })
      }
    },
  },
}

import { TYPE } from '../../records/types.ts'
import { isSelector } from '../look.ts'
import type { Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'
import { GOOD, OTHER_KEY } from './examples.ts'
import { KEYS, READ } from './reading.ts'

export const dkimSeveral: Rule = {
  code: 'dkim/several',
  severity: 'error',
  source: 'RFC 6376 §3.6.2.2',
  title: 'more than one TXT record at a DKIM selector',
  why: 'The result is undefined: some verifiers use the first record they receive, others none.',
  remedy: 'Keep one. Another key needs another selector.',
  bad: [`${GOOD}\ns1._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`],
  good: [`${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SEVERAL,
        visit(set, cx) {
          if (!isSelector(cx.zones, set.owner)) return
          if (
            !set.records.some((each) => KEYS.reading(cx.zones, each, set)) ||
            new Set(set.records.map((each) => READ.of(cx.zones, each).text)).size < 2
          )
            return
          cx.report({
            record: set.records[1],
            message: `${cx.name(set.owner)} has ${set.records.length} TXT records; the first is at ${cx.where(set.records[0]!, set.records[1])}`,
            effect: 'Verifiers use any of them, or none: signatures fail at random.',
            fix: ['keep the key that mail is signed with'],
          })
        },
      },
    },
  },
}

import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'

export const dnssecDsWithoutNs: Rule = {
  code: 'dnssec/ds-without-ns',
  severity: 'error',
  source: 'RFC 4035 §2.4',
  title: 'DS record without a delegation',
  why: 'A DS record vouches for the keys of a delegated zone. Without NS there is no such zone, and validating resolvers treat everything below as forged.',
  remedy: 'Write the NS set of the delegation, or remove the DS record.',
  bad: [`isle DS 60485 8 2 ${'AB'.repeat(32)}`],
  good: [`isle DS 60485 8 2 ${'AB'.repeat(32)}\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.`],
  visit: {
    set: {
      [TYPE.DS](set, cx) {
        if (set.owner !== set.zone.apex && cx.zones.records(set.owner, TYPE.NS, set.zone.index).length > 0) return
        cx.report({
          record: set.records[0],
          message: `${cx.name(set.owner)} has a DS record but ${set.owner === set.zone.apex ? 'is the apex of this zone: DS belongs in the parent zone' : 'is not delegated'}`,
          effect: 'Validating resolvers treat everything below as forged.',
          fix: [
            set.owner === set.zone.apex
              ? 'give it to the operator of the parent zone'
              : `${cx.name(set.owner)} NS SERVER.`,
          ],
        })
      },
    },
  },
}

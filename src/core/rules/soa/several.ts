import { rdataKey } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'
import { SOUND, topped } from './visits.ts'

export const soaSeveral: Rule = {
  code: 'soa/several',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'more than one SOA record',
  why: 'A zone has one. Servers refuse the file, or use one of them.',
  remedy: 'Keep the one with the highest serial.',
  bad: [
    topped(`${SOUND}\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112302 7200 900 1209600 3600`),
  ],
  good: [topped(SOUND)],
  visit: {
    set: {
      [TYPE.SOA]: {
        when: SEVERAL,
        visit(set, cx) {
          const key = rdataKey(TYPE.SOA, cx.zones.rdata(set.records[0]!))
          const other = set.records.find((record) => rdataKey(TYPE.SOA, cx.zones.rdata(record)) !== key)
          if (other === undefined) return
          cx.report({
            record: other,
            message: `${cx.name(set.owner)} has a second SOA record; the first is at ${cx.where(set.records[0]!, other)}`,
            effect: 'Servers refuse the file.',
            fix: [`keep only one: ${cx.name(set.owner)} ${cx.record(set.records[0]!)}`],
          })
        },
      },
    },
  },
}

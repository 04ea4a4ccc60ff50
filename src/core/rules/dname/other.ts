import { rdataKey } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'

export const dnameOther: Rule = {
  code: 'dname/other',
  severity: 'error',
  source: 'RFC 6672 §2.4',
  title: 'DNAME next to a CNAME, or a second DNAME',
  why: 'Which of the two rewrites a name would be a matter of chance. Servers refuse the zone.',
  remedy: 'Keep one of them.',
  silences: ['cname/other-data'],
  bad: [
    'isle DNAME isle.lakepass.example.\nisle DNAME cove.lakepass.example.',
    'isle DNAME isle.lakepass.example.\nisle CNAME cove.lakepass.example.',
  ],
  good: ['isle DNAME isle.lakepass.example.\nisle TXT "moved"'],
  visit: {
    set: {
      [TYPE.DNAME](set, cx) {
        const { zones } = cx
        const key = rdataKey(TYPE.DNAME, zones.rdata(set.records[0]!))
        const other =
          zones.records(set.owner, TYPE.CNAME)[0] ??
          set.records.find((record) => rdataKey(TYPE.DNAME, zones.rdata(record)) !== key)
        if (other === undefined) return
        cx.report({
          record: other,
          message: `${cx.name(set.owner)} has ${cx.record(set.records[0]!)} (${cx.where(set.records[0]!, other)}) and ${typeText(zones.type(other))} ${zones.rdataText(other)}`,
          effect: 'Servers refuse the zone.',
          fix: [`keep only one: ${cx.name(set.owner)} ${cx.record(set.records[0]!)}`],
        })
      },
    },
  },
}

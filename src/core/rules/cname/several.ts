import { NONE } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'

export const cnameSeveral: Rule = {
  code: 'cname/several',
  severity: 'error',
  source: 'RFC 2181 §10.1',
  title: 'more than one CNAME at a name',
  why: 'A name can be an alias of one name only. Servers refuse the zone, or answer with one of the CNAMEs at random.',
  remedy: 'Keep one. To share load between hosts, give one name the addresses of both.',
  bad: ['www CNAME one\nwww CNAME two\none A 192.0.2.10\ntwo A 192.0.2.11'],
  good: ['www CNAME one\none A 192.0.2.10\none A 192.0.2.11'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: SEVERAL,
        visit(set, cx) {
          const [first = NONE, ...more] = set.records
          const firstKey = rdataKey(set.type, cx.zones.rdata(first))
          const other = more.find((record) => rdataKey(set.type, cx.zones.rdata(record)) !== firstKey)
          if (other === undefined) return
          cx.report({
            record: other,
            part: 0,
            message: `${cx.name(set.owner)} has a second CNAME to ${cx.name(cx.zones.target(other))}, next to the one to ${cx.name(cx.zones.target(first))} (${cx.where(first, other)})`,
            effect: 'Servers refuse the zone, or answer with one of them at random.',
            fix: [`keep only one: ${cx.name(set.owner)} ${cx.record(first)}`],
          })
        },
      },
    },
  },
}

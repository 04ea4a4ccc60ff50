import { reverseParts } from '../../names/reverse.ts'
import { TYPE } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { two } from '../shared/reverse-example.ts'
import { SEVERAL } from '../traits.ts'

export const ptrSeveral: Rule = {
  code: 'ptr/several',
  severity: 'advice',
  source: 'RFC 2181 §10.2',
  title: 'more than one PTR record for an address',
  why: 'This is allowed, but many programs look at only one of them, and which one is a matter of chance.',
  remedy: 'Keep the host’s own name.',
  bad: [two('a A 192.0.2.25\nb A 192.0.2.25', '25 PTR a.hollowmere.example.\n25 PTR b.hollowmere.example.')],
  good: [
    two('a A 192.0.2.25\nb A 192.0.2.26', '25 PTR a.hollowmere.example.\n26 PTR b.hollowmere.example.'),
    two('a A 192.0.2.25', 'b._dns-sd._udp PTR hollowmere.example.\nb._dns-sd._udp PTR lakepass.example.'),
  ],
  visit: {
    set: {
      [TYPE.PTR]: {
        when: SEVERAL,
        visit(set, cx) {
          if (!reverseParts(cx.name(set.owner))?.address) return
          if (new Set(set.records.map((record) => cx.zones.target(record))).size < 2) return
          cx.report({
            record: set.records[1],
            message: `${cx.name(set.owner)} has ${set.records.length} PTR records: ${listed(set.records.map((record) => cx.name(cx.zones.target(record))))}`,
            effect: 'Programs that use only one of them pick any.',
            fix: [`keep the host’s own name, for example: ${cx.name(set.owner)} ${cx.record(set.records[0]!)}`],
          })
        },
      },
    },
  },
}

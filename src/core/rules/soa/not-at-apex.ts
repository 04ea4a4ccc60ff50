import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { SOUND, topped } from './visits.ts'

export const soaNotAtTop: Rule = {
  code: 'soa/not-at-apex',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'SOA record below the zone apex',
  why: 'An SOA record marks the apex of a zone. Below it, it starts another zone, which belongs in a file of its own.',
  remedy: 'Remove it, or create a zone of that name.',
  bad: ['isle SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600'],
  good: [topped(SOUND)],
  visit: {
    set: {
      [TYPE.SOA](set, cx) {
        if (set.owner === set.zone.apex) return
        cx.report({
          record: set.records[0],
          message: `${cx.name(set.owner)} has an SOA record, but the zone of this file is ${set.zone.name}`,
          effect: 'Servers refuse the file, or ignore the record.',
          fix: [
            `remove it; if ${cx.name(set.owner)} is to be a zone of its own, give it a file and write NS records here`,
          ],
        })
      },
    },
  },
}

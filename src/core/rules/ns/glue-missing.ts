import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { PARENT_CHILD } from '../shared/delegation-examples.ts'

function sayGlueMissing(cx: Context, record: RecordId): void {
  const target = cx.zones.target(record)
  cx.report({
    record,
    part: 0,
    message: `${cx.name(cx.zones.owner(record))} is delegated to ${cx.name(target)}, which is inside it, but this zone has no address for it`,
    effect: 'Resolvers cannot find this name server.',
    fix: [`${cx.name(target)} A ADDRESS`],
  })
}

export const nsGlueMissing: Rule = {
  code: 'ns/glue-missing',
  severity: 'error',
  source: 'RFC 1034 §4.2.1, RFC 9471',
  title: 'delegation to a name server inside the delegated zone without glue',
  why: 'The server’s address would have to be looked up at that same server. Everything below the delegation is unreachable through it.',
  remedy: 'Write the server’s addresses (A, AAAA) in this zone, too.',
  silences: ['ns/target-without-address'],
  bad: [
    'isle NS ns1.isle\nisle NS ns2.upland-dns.example.',
    PARENT_CHILD(
      'isle NS ns1.isle\nisle NS ns2.upland-dns.example.',
      '@ NS ns1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53',
    ),
  ],
  good: [
    'isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53',
    'isle NS ns1.cove\nisle NS ns2.upland-dns.example.\nns1.cove A 192.0.2.53',
  ],
  visit: {
    set: {
      [TYPE.NS](set, cx) {
        if (set.owner === set.zone.apex) return
        for (const record of set.records) if (lacksGlue(cx.zones, record, set.zone)) sayGlueMissing(cx, record)
      },
    },
  },
}

function lacksGlue(zones: Zones, record: RecordId, zone: Zone): boolean {
  const target = zones.target(record)
  return zones.tree.isAtOrBelow(target, zones.owner(record)) && addressesAt(zones, target, zone.index).length === 0
}

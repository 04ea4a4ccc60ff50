import type { Zones } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { parentZone } from '../look.ts'
import type { Rule } from '../rule.ts'
import { PARENT_CHILD, TWO, TWO_BELOW } from '../shared/delegation-examples.ts'
import { COVERED } from '../traits.ts'

export const keptSameNameTwoZones: Rule = {
  code: 'zones/same-name-two-zones',
  severity: 'error',
  source: 'RFC 1034 §4.2.1',
  title: 'parent zone record that belongs to your child zone',
  why: 'Only the child zone’s data is ever served. What is in the parent zone has no effect.',
  remedy: 'Keep the records in the child zone only; the parent has NS, DS and the servers’ addresses.',
  bad: [
    PARENT_CHILD(`${TWO}\nwww.isle A 192.0.2.10`, `${TWO_BELOW}\nwww A 192.0.2.10`),
    PARENT_CHILD(`${TWO}\nisle MX 0 .`, TWO_BELOW),
  ],
  good: [
    PARENT_CHILD(
      `isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53\nisle DS 1 8 2 ${'AB'.repeat(32)}`,
      '@ NS ns1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53',
    ),
  ],
  visit: {
    record: {
      when: COVERED,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        const zone = zones.zoneOf(owner)
        const here = zones.zoneOfRecord(record)
        if (!zone || zone === here || zone.apex === here.apex || !zones.tree.isAtOrBelow(owner, here.apex)) return
        const type = zones.type(record)
        if (
          type === TYPE.RRSIG ||
          type === TYPE.NSEC ||
          (owner === zone.apex && (type === TYPE.NS || type === TYPE.DS))
        )
          return
        const memory = cx.memory((): { told: Set<string>; servers?: Set<NameId> } => ({ told: new Set() }))
        if (type === TYPE.A || type === TYPE.AAAA) {
          memory.servers ??= delegatedTo(zones)
          if (memory.servers.has(owner)) return
        }
        const key = `${here.index} ${owner}`
        if (memory.told.has(key)) return
        memory.told.add(key)
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(owner)} ${typeText(type)} is in the file of ${here.name}, but the name belongs to ${zone.name} (${zone.file})`,
          effect: 'It is never served: only the data of the child zone is.',
          fix: [`move it to ${zone.file}, or remove it`],
        })
      },
    },
  },
}

/** The name servers of all kept zones by what their kept parents say. */
function delegatedTo(zones: Zones): Set<NameId> {
  const found = new Set<NameId>()
  for (const child of zones.zones) {
    const parent = parentZone(zones, child)
    if (parent) for (const record of zones.records(child.apex, TYPE.NS, parent.index)) found.add(zones.target(record))
  }
  return found
}

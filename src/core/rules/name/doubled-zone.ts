import { entryParts } from '../../file/entry.ts'
import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { bare } from '../../names/name.ts'
import { textOf } from '../../names/octets.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { rowOf, typeText } from '../../records/types.ts'
import type { Context, Repair, Rule } from '../rule.ts'
import { FOLLOWS } from './follows.ts'

/** The name that a zone's own labels make below the zone, where anything speaks of it: where names end up whose final dot was forgotten. */
function doubled(zones: Zones, zone: Zone): NameId {
  const { tree } = zones
  const labels: NameId[] = []
  for (let name = zone.apex; name !== 0; name = tree.parent(name)) labels.push(name)
  let name = zone.apex
  for (let i = labels.length - 1; i >= 0 && name !== NONE; i--) {
    const label = tree.label(labels[i]!)
    name = tree.find(name, label, 0, label.length)
  }
  return name
}

/** What is written there with a final dot, where it ends in the zone's name. */
function dotted(cx: Context, record: RecordId, part: 'owner' | number, zone: Zone): Repair | undefined {
  const parts = entryParts(cx.zones, record)
  const place = part === 'owner' ? parts.owner : parts.values[part]
  const written = place && textOf(cx.zones.source(record).octets.subarray(...place))
  return written?.toLowerCase().endsWith(bare(zone.name).toLowerCase())
    ? cx.rewriting(record, part, `${written}.`)
    : undefined
}

function withoutDoubling(name: string, zone: Zone): string {
  return name.slice(0, name.length - zone.name.length)
}

export const nameDoubledZone: Rule = {
  code: 'name/doubled-zone',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'name that ends in the zone’s name twice',
  why: 'A name without a final dot is completed with the zone’s name. Written in full but without the dot, it becomes a name that nobody asks for.',
  remedy: 'Add the final dot, or leave out the zone’s name.',
  silences: [...FOLLOWS, 'name/final-dot-missing'],
  bad: [
    'www.hollowmere.example A 192.0.2.10',
    '@ MX 10 mail.hollowmere.example\nmail A 192.0.2.25',
    'www CNAME site.hollowmere.example\nsite A 192.0.2.10',
  ],
  good: [
    'www.hollowmere.example. A 192.0.2.10\n@ MX 10 www.hollowmere.example.',
    'hollowmere A 192.0.2.11\nexample.hollowmere A 192.0.2.12',
  ],
  visit: {
    finish(cx) {
      const { zones } = cx
      const places = new Map<Zone, NameId>()
      for (const zone of zones.zones) {
        const place = zone.apex === ROOT ? NONE : doubled(zones, zone)
        if (place !== NONE) places.set(zone, place)
      }
      if (places.size === 0) return
      const told = new Set<NameId>()
      cx.eachRecord((record) => {
        const zone = zones.zoneOfRecord(record)
        const place = places.get(zone)
        if (place === undefined) return
        const owner = zones.owner(record)
        if (zones.tree.isAtOrBelow(owner, place) && !told.has(owner)) {
          told.add(owner)
          cx.report({
            record,
            part: 'owner',
            message: `${cx.name(owner)} ends in the zone’s name twice: its final dot is missing`,
            effect: `Nobody asks for this name; ${withoutDoubling(cx.name(owner), zone)} does not get the record.`,
            fix: [`${withoutDoubling(cx.name(owner), zone)} ${cx.record(record)}`],
            repair: dotted(cx, record, 'owner', zone),
          })
        }
        const target = zones.target(record)
        if (target === NONE || !zones.tree.isAtOrBelow(target, place) || zones.exists(target)) return
        const type = zones.type(record)
        const index = rowOf(type)!.target!
        cx.report({
          record,
          part: index,
          message: `the target of ${typeText(type)} at ${cx.name(owner)} is ${cx.name(target)}, which ends in the zone’s name twice: its final dot is missing`,
          effect: 'No such host exists, so the record leads nowhere.',
          fix: [`${cx.name(owner)} ${cx.withTarget(record, withoutDoubling(cx.name(target), zone))}`],
          repair: dotted(cx, record, index, zone),
        })
      })
    },
  },
}

import { isCatalogZone } from '../../knowledge/catalog-zone.ts'
import type { Zone } from '../../model/zones.ts'
import { type NameId, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { catalogZone } from '../shared/catalog-example.ts'

export const catalogMember: Rule = {
  code: 'catalog/member',
  severity: 'error',
  source: 'RFC 9432 §4.1, §4.3',
  title: 'zone that is listed twice in a catalog zone, or two zones under one label',
  why: 'Each zone has a label of its own below “zones”, with one PTR record. Of a label with several zones servers process nothing, nor anything else of that catalog.',
  remedy: 'Give each zone one label, and each label one zone.',
  bad: [
    catalogZone('version TXT "2"\na.zones PTR lakepass.example.\na.zones PTR hollowmere.example.'),
    catalogZone('version TXT "2"\na.zones PTR lakepass.example.\nb.zones PTR LAKEPASS.example.'),
  ],
  good: [
    catalogZone(
      'version TXT "2"\na.zones PTR lakepass.example.\nb.zones PTR hollowmere.example.\ngroup.b.zones TXT "g"',
    ),
    'a.zones PTR lakepass.example.\nb.zones PTR lakepass.example.',
  ],
  visit: {
    set: {
      [TYPE.PTR](set, cx) {
        const { zones } = cx
        if (set.owner === ROOT || set.owner === set.zone.apex) return
        const above = zones.tree.parent(set.owner)
        if (above === ROOT || zones.tree.parent(above) !== set.zone.apex) return
        if (cx.name(above) !== `zones.${cx.name(set.zone.apex)}` || !isCatalogZone(zones, set.zone)) return
        const targets = new Set(set.records.map((record) => zones.target(record)))
        const twins = [...targets].flatMap((target) =>
          [...(labelsByZone(cx, set.zone, above).get(target) ?? [])].filter((owner) => owner < set.owner),
        )
        if (targets.size === 1 && twins.length === 0) return
        cx.report({
          ...(targets.size > 1 ? {} : { severity: 'warning' as const }),
          record: set.records[targets.size > 1 ? 1 : 0],
          message:
            targets.size > 1
              ? `${cx.name(set.owner)} lists ${targets.size} zones: ${listed([...targets].map((target) => cx.name(target)))}`
              : `${cx.name([...targets][0]!)} is listed at ${cx.name(set.owner)}, and at ${listed(twins.map((owner) => cx.name(owner)))}`,
          effect:
            targets.size > 1
              ? 'The catalog is broken: servers that read it do not process it.'
              : 'Servers use only one of the labels.',
          fix:
            targets.size > 1
              ? [...targets].slice(1).map((target) => `LABEL.${cx.name(above)} PTR ${cx.name(target)}`)
              : [`remove ${cx.name(set.owner)} PTR, or the other one`],
        })
      },
    },
  },
}

/** The labels of each listed zone; found out once a zone. */
function labelsByZone(cx: Context, zone: Zone, above: NameId): Map<NameId, Set<NameId>> {
  const known = cx.memory(() => new Map<Zone, Map<NameId, Set<NameId>>>())
  let labels = known.get(zone)
  if (labels) return labels
  labels = new Map()
  for (const record of cx.zones.recordsIn(zone)) {
    const owner = cx.zones.owner(record)
    if (cx.zones.type(record) !== TYPE.PTR || cx.zones.tree.parent(owner) !== above) continue
    const target = cx.zones.target(record)
    labels.set(target, (labels.get(target) ?? new Set()).add(owner))
  }
  known.set(zone, labels)
  return labels
}

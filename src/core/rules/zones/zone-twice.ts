import { NONE } from '../../names/tree.ts'
import type { Rule } from '../rule.ts'

export const keptZoneTwice: Rule = {
  code: 'zones/zone-twice',
  severity: 'error',
  source: 'RFC 1034 §4.2',
  title: 'two files for one zone',
  why: 'One of them is what the server has, and the other is being edited. You find out which on the day that something breaks.',
  remedy:
    'Keep one file. If internal clients get different answers than the public Internet, give each file its view in bramblefront.yaml.',
  bad: [{ zones: { 'hollowmere.example': 'www A 192.0.2.10', 'hollowmere.example ': 'www A 192.0.2.11' } }],
  good: [{ zones: { 'hollowmere.example': 'www A 192.0.2.10', 'lakepass.example': 'www A 192.0.2.11' } }],
  visit: {
    zone(zone, cx) {
      const first = cx.zones.zoneWithApex(zone.apex)!
      if (first === zone) return
      cx.report({
        record: zone.soa === NONE ? undefined : zone.soa,
        part: 'owner',
        zone,
        message: `${zone.file} is for ${zone.name}, and so is ${first.file}`,
        effect: 'Only the first is checked here; nothing says which of them is served.',
        fix: [`keep one of them, or give each a view in bramblefront.yaml`],
      })
    },
  },
}

import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { parentZone } from '../look.ts'
import type { Rule } from '../rule.ts'
import { PARENT_CHILD, TWO, TWO_BELOW } from '../shared/delegation-examples.ts'

export const nsDelegationMissing: Rule = {
  code: 'ns/delegation-missing',
  severity: 'error',
  source: 'RFC 1034 §4.2.1',
  title: 'child zone that your parent zone does not delegate',
  why: 'Resolvers that start at the root do not find the child zone: on the public Internet its names do not exist, unless the same server happens to serve both.',
  remedy: 'Write the child’s NS set in the parent zone, with glue for servers inside the child zone.',
  bad: [PARENT_CHILD('www A 192.0.2.10', TWO_BELOW)],
  good: [PARENT_CHILD(TWO, TWO_BELOW)],
  visit: {
    zone(zone, cx) {
      const parent = parentZone(cx.zones, zone)
      if (
        !parent ||
        parent.complete === false ||
        !cx.isAbout(zone.apex) ||
        cx.zones.records(zone.apex, TYPE.NS, parent.index).length > 0
      )
        return
      // Below another cut, or below a wildcard NS, somebody else delegates.
      if (cx.zones.cut(cx.zones.tree.parent(zone.apex)) !== NONE) return
      const own = cx.zones.records(zone.apex, TYPE.NS, zone.index)
      cx.report({
        record: parent.soa === NONE ? undefined : parent.soa,
        zone: parent,
        owner: zone.apex,
        message: `${parent.name} does not delegate ${zone.name}, which is one of your zones`,
        effect: 'On the public Internet, no name in that zone exists.',
        fix: own.length > 0 ? own.map((record) => `${zone.name} ${cx.record(record)}`) : [`${zone.name} NS SERVER.`],
      })
    },
  },
}

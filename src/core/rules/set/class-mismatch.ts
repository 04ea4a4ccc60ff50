import type { Zone } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'

export const setClassMismatch: Rule = {
  code: 'set/class-mismatch',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'record of another class than the zone’s',
  why: 'A zone file has one class, nearly always IN. Servers refuse the file.',
  remedy: 'Write IN, or leave out the class.',
  bad: ['www CH A 192.0.2.10'],
  good: ['www IN A 192.0.2.10'],
  visit: {
    finish(cx) {
      const { zones } = cx
      if (!zones.hasOddClasses()) return
      const told = new Set<Zone>()
      cx.eachRecord((record) => {
        const zone = zones.zoneOfRecord(record)
        const klass = zone.soa === NONE ? 1 : zones.classOf(zone.soa)
        // A class stands for those below it that state none: of them, nothing more is said.
        if (zones.classOf(record) === klass || told.has(zone)) return
        told.add(zone)
        cx.report({
          record,
          message: `${cx.name(zones.owner(record))} ${typeText(zones.type(record))} has class ${zones.classOf(record)}, but the zone has class ${klass}`,
          effect: 'Servers refuse the file.',
          fix: [`${cx.name(zones.owner(record))} IN ${cx.record(record)}`],
        })
      })
    },
  },
}

import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { COVERED } from '../traits.ts'

export const dnameBelow: Rule = {
  code: 'dname/below',
  severity: 'error',
  source: 'RFC 6672 §2.4',
  title: 'records below a DNAME',
  why: 'Every name below a DNAME is rewritten to one below its target, so records there are never served. Some servers refuse the zone.',
  remedy: 'Write the records below the target, or remove the DNAME.',
  bad: ['isle DNAME isle.lakepass.example.\nwww.isle A 192.0.2.10'],
  good: ['isle DNAME isle.lakepass.example.\nisle A 192.0.2.10'],
  visit: {
    record: {
      when: COVERED,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        const above = zones.dnameAbove(owner)
        const type = zones.type(record)
        if (
          above === NONE ||
          zones.zoneOf(owner) !== zones.zoneOfRecord(record) ||
          type === TYPE.NSEC3 ||
          type === TYPE.RRSIG
        )
          return
        const told = cx.memory(() => new Set<NameId>())
        if (told.has(owner)) return
        told.add(owner)
        const dname = zones.records(above, TYPE.DNAME)[0]!
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(owner)} is below ${cx.name(above)}, which has a DNAME (${cx.where(dname, record)})`,
          effect: 'It is never served: every name there is rewritten.',
          fix: [`write it below ${cx.name(zones.target(dname))}`],
        })
      },
    },
  },
}

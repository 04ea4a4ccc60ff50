import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'

export const dnameBesideNs: Rule = {
  code: 'dname/beside-ns',
  severity: 'error',
  source: 'RFC 6672 §2.3',
  silences: ['name/under-delegation'],
  title: 'DNAME at a delegated name',
  why: 'Below a delegation another zone answers, so the DNAME belongs there. Some servers refuse the zone; others never use the DNAME.',
  remedy: 'Remove the NS set, or move the DNAME to the apex of the delegated zone.',
  bad: ['isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.\nisle DNAME isle.lakepass.example.'],
  good: ['@ DNAME lakepass.example.', 'isle DNAME isle.lakepass.example.'],
  visit: {
    set: {
      [TYPE.NS](set, cx) {
        if (set.owner === set.zone.apex) return
        const [dname] = cx.zones.records(set.owner, TYPE.DNAME, set.zone.index)
        if (dname === undefined) return
        cx.report({
          record: dname,
          message: `${cx.name(set.owner)} has a DNAME but is delegated (${cx.where(set.records[0]!, dname)})`,
          effect: 'Some servers refuse the zone; others never use the DNAME.',
          fix: [`remove ${cx.name(set.owner)} ${cx.record(dname)}, or the NS set`],
        })
      },
    },
  },
}

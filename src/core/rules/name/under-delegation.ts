import type { RecordId } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { listed, recordsOf } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { COVERED } from '../traits.ts'

const AT_CUT = new Set<number>([TYPE.NS, TYPE.DS, TYPE.NSEC, TYPE.NSEC3, TYPE.RRSIG])

export const nameUnderDelegation: Rule = {
  code: 'name/under-delegation',
  severity: 'warning',
  source: 'RFC 1034 §4.2.1, RFC 9471',
  title: 'records at or below a delegation that are not glue',
  why: 'The delegated servers answer for everything at and below a delegated name. These records are never served, so editing them has no effect.',
  remedy: 'Write them in the delegated zone, or remove the delegation.',
  bad: [
    'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.\nwww.isle A 192.0.2.10',
    'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.\nisle MX 10 mx.larkpost.example.',
  ],
  good: [
    'isle NS ns.isle\nisle NS ns.cove\nns.isle A 192.0.2.53\ncove NS ns.cove\ncove NS ns.isle\nns.cove AAAA 2001:db8::53',
    'isle NS isle\nisle NS ns2.upland-dns.example.\nisle A 192.0.2.53\nisle DS 60485 8 2 D4B7D520E7BB5F0F67674A0CCEB1E3E0614B93C4F9E99B8383F6A1E4469DA50A',
  ],
  visit: {
    record: {
      when: COVERED,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        const cut = zones.cut(owner)
        if (cut === NONE || zones.zoneOf(owner) !== zones.zoneOfRecord(record)) return
        const type = zones.type(record)
        if ((cut === owner && AT_CUT.has(type)) || type === TYPE.RRSIG || type === TYPE.NSEC) return
        const memory = memoryOf(cx)
        if (type === TYPE.A || type === TYPE.AAAA) {
          memory.servers ??= nameServers(cx)
          if (memory.servers.has(owner)) return
        }
        const records = memory.found.get(owner)
        if (records) records.push(record)
        else memory.found.set(owner, [record])
      },
    },
    finish(cx) {
      const { zones } = cx
      const { found } = memoryOf(cx)
      for (const [owner, records] of found) {
        const cut = zones.cut(owner)
        cx.report({
          record: records[0],
          part: 'owner',
          message: `${cx.name(owner)} has ${listed([...new Set(records.map((record) => typeText(zones.type(record))))])}, but ${cut === owner ? 'it' : cx.name(cut)} is delegated to other servers (${cx.where(zones.records(cut, TYPE.NS)[0]!, records[0])})`,
          effect: 'The servers of this zone never serve it.',
          fix: [`write it in the zone ${cx.name(cut)}`],
        })
      }
    },
  },
}

const memoryOf = (cx: Context): { servers?: Set<NameId>; found: Map<NameId, RecordId[]> } =>
  cx.memory((): { servers?: Set<NameId>; found: Map<NameId, RecordId[]> } => ({ found: new Map() }))

/** All names that the zones delegate to. */
function nameServers(cx: Context): Set<NameId> {
  const { zones } = cx
  const found = new Set<NameId>()
  for (const record of recordsOf(zones, TYPE.NS)) found.add(zones.target(record))
  return found
}

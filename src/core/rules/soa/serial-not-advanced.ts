import { advanceSerial, serialAfter } from '../../file/serial.ts'
import type { Source, Zone, Zones } from '../../model/zones.ts'
import { foldName, type Name } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { head, onSoa, SOUND, soaOf, withValue } from './visits.ts'

/** Every set of a zone in its file but the SOA record, as texts: owner, type and data, TTLs with them. */
function contentOf(zones: Zones, zone: Zone, { firstRecord, endRecord }: Source): Map<string, number> {
  const found = new Map<string, number>()
  for (let record = firstRecord; record < endRecord; record++) {
    if (record === zone.soa) continue
    const key = `${zones.tree.text(zones.owner(record)).toLowerCase()} ${zones.type(record)} ${zones.ttl(record)} ${rdataKey(zones.type(record), zones.rdata(record))}`
    found.set(key, record)
  }
  return found
}

/** Zones by their names, each with its own file. */
function publishedZones({ zones, sources }: Zones): Map<Name, { zone: Zone; source: Source }> {
  const found = new Map<Name, { zone: Zone; source: Source }>()
  for (const source of sources) {
    const zone = zones[source.zone]!
    if (!found.has(foldName(zone.name))) found.set(foldName(zone.name), { zone, source })
  }
  return found
}

export const soaSerialNotAdvanced: Rule = {
  code: 'soa/serial-not-advanced',
  severity: 'error',
  source: 'RFC 1982, RFC 1035 §3.3.13',
  title: 'SOA serial not advanced although records changed since the last publication',
  why: 'Secondaries transfer a zone only when its serial is greater than theirs. They keep answering with the old data until somebody notices.',
  remedy: 'Advance the serial.',
  bad: [
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.11' },
      published: { 'hollowmere.example': head(SOUND) + '\nwww A 192.0.2.10\n' },
    },
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.11' },
      published: { 'lakepass.example': head(SOUND), 'HollowMere.example': head(SOUND) },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.10' },
      published: { 'hollowmere.example': head(SOUND) + '\nwww A 192.0.2.10\n' },
    },
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.11' },
      published: { 'hollowmere.example': head(SOUND.replace('301', '299')) + '\nwww A 192.0.2.10\n' },
    },
  ],
  visit: onSoa(({ serial }, record, zone, cx) => {
    const { published } = cx.around
    if (!published || zone.hosted) return []
    const before = cx.memory(() => publishedZones(published)).get(foldName(zone.name))
    if (!before || before.zone.soa === NONE) return []
    const old = soaOf(published, before.zone.soa).serial
    if (serialAfter(serial, old)) return []
    const then = contentOf(published, before.zone, before.source)
    const now = contentOf(cx.zones, zone, cx.sourcesOf(zone)[0]!)
    const changed = [...now.keys()].find((key) => !then.has(key))
    const gone = [...then.keys()].find((key) => !now.has(key))
    if (changed === undefined && gone === undefined) return []
    const [zones, example] = changed === undefined ? [published, then.get(gone!)!] : [cx.zones, now.get(changed)!]
    // From what was published, in its own style; without a clock it is counted up.
    const next = advanceSerial(old, cx.around.now ?? new Date(0))
    return [
      {
        part: 2,
        message: `the serial is ${serial}, but ${old} was already published with different data (${changed === undefined ? 'gone' : 'new'}: ${zones.tree.text(zones.owner(example))} ${typeText(zones.type(example))} ${zones.rdataText(example)})`,
        effect: 'Secondaries keep serving the old data.',
        fix: [withValue(cx, record, 2, next)],
        repair: cx.rewriting(record, 2, String(next)),
      },
    ]
  }),
}

/** What the SOA record says, and where it stands. */

import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { type Rdata, rdataFields } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { type SoaData, soa } from '../../records/views.ts'
import type { Context, Report, Rule } from '../rule.ts'

interface Soa extends SoaData {
  /** The record's data: the primary server's name comes first, then the mailbox. */
  data: Rdata
}

export function soaOf(zones: Zones, record: RecordId): Soa {
  const data = zones.rdata(record)
  return { data, ...soa(data) }
}

/** The same line with one value changed. */
export function withValue(cx: Context, record: RecordId, index: number, value: string | number): string {
  const values = rdataFields(TYPE.SOA, cx.zones.rdata(record))
  values[index] = String(value)
  return `${cx.name(cx.zones.owner(record))} SOA ${values.join(' ')}`
}

export const head = (soa: string): string =>
  `$TTL 3600\n${soa}\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.`

export const topped = (soa: string): { whole: true; zones: Record<string, string> } => ({
  whole: true,
  zones: { 'hollowmere.example': head(soa) },
})

export const SOUND = '@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112301 7200 900 1209600 3600'

/** A rule about the SOA record at a zone's top. */
export function onSoa(
  look: (soa: Soa, record: RecordId, zone: Zone, cx: Context) => (Omit<Report, 'record'> | undefined)[],
): Rule['visit'] {
  return {
    zone(zone, cx) {
      if (zone.soa === NONE || !cx.isAbout(zone.apex)) return
      const reports = look(soaOf(cx.zones, zone.soa), zone.soa, zone, cx)
      for (let i = 0; i < reports.length; i++) {
        const report = reports[i]
        if (report) cx.report({ record: zone.soa, ...report })
      }
    },
  }
}

export const DAY = 86_400

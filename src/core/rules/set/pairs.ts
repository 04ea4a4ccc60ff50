/** Records of one set that differ where they must not, or do not differ at all. */
import type { RecordId, Zones } from '../../model/zones.ts'
import { name } from '../../records/fields.ts'
import { rdataKey, sameRdata } from '../../records/rdata.ts'
import { rowOf } from '../../records/types.ts'
import type { Context, SetView } from '../rule.ts'

/** Sets of more records than this are compared by keys, so that the cost stays linear. */
const PAIRWISE = 8

/** Whether two records of a set are certainly not the same: told from the columns, as most are. */
function differ(zones: Zones, one: RecordId, other: RecordId): boolean {
  const length = zones.dataOctets(one)
  if (zones.target(one) !== zones.target(other) || length !== zones.dataOctets(other)) return true
  // Letter case counts in data without names only; of the rest, the slower comparison decides.
  if (rowOf(zones.type(one))?.fields.some((field) => field.kind === name)) return false
  const { octets } = zones.data
  for (let i = 0; i < length; i++)
    if (octets[zones.dataStart(one) + i] !== octets[zones.dataStart(other) + i]) return true
  return false
}

/** The first record with each record's data: itself, where it is no repeat. */
export function firstAlike(set: SetView, cx: Context): RecordId[] {
  const { records, type } = set
  if (records.length === 2 && differ(cx.zones, records[0]!, records[1]!)) return records
  if (records.length <= PAIRWISE)
    return records.map(
      (record, i) =>
        records.find((other, k) => k === i || sameRdata(type, cx.zones.rdata(other), cx.zones.rdata(record)))!,
    )
  const found = new Map<string, RecordId>()
  return records.map((record) => {
    const key = rdataKey(type, cx.zones.rdata(record))
    const first = found.get(key)
    if (first === undefined) found.set(key, record)
    return first ?? record
  })
}

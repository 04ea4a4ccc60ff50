/** The private keys of the workspace, and the records at their selectors. */

import type { RecordId } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Refused } from '../../result.ts'
import { named } from '../look.ts'
import type { Context, KeptKey } from '../rule.ts'

/** The kept keys whose selector has key records, with these. */
export function keptKeys(cx: Context): { kept: KeptKey; records: RecordId[] }[] {
  return cx.around.keys!.flatMap((kept) => {
    const name = named(cx.zones, kept.owner)
    const records =
      name === NONE || !cx.isAbout(name) || cx.zones.cut(name) !== NONE ? [] : cx.zones.records(name, TYPE.TXT)
    return records.length > 0 ? [{ kept, records }] : []
  })
}

export function hasKeptKeys(cx: Context): boolean {
  return (cx.around.keys?.length ?? 0) > 0
}

export function keptAs(half: { key: string } | Refused): KeptKey {
  return {
    owner: 's1._domainkey.hollowmere.example.',
    file: 'keys/s1._domainkey.hollowmere.example.pem',
    publicHalf: async () => half,
  }
}

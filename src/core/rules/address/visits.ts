/** Addresses that are not for everybody. */

import type { RecordId } from '../../model/zones.ts'
import { type Network, specialNetwork } from '../../names/address-kinds.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule, SetView } from '../rule.ts'

export const onAddress = (
  when: number,
  visit: (set: SetView, cx: Context) => void,
  more: Partial<Rule['visit']> = {},
): Rule['visit'] => ({
  ...more,
  set: { [TYPE.A]: { when, visit }, [TYPE.AAAA]: { when, visit } },
})

/** Each record of the set in a special network. */
export function special(set: SetView, cx: Context, visit: (record: RecordId, network: Network) => void): void {
  for (const record of set.records) {
    const network = specialNetwork(cx.zones.data.octets, cx.zones.dataStart(record), cx.zones.dataOctets(record))
    if (network) visit(record, network)
  }
}

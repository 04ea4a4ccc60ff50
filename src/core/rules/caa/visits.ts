/** Which certificates and keys are right: TLSA, CAA, and digests wherever they stand. */
import type { RecordId } from '../../model/zones.ts'
import { latin1Of } from '../../names/octets.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'

interface Caa {
  flags: number
  tag: string
  value: string
}

export function eachCaa(visit: (caa: Caa, record: RecordId, cx: Context) => void): Rule['visit'] {
  return {
    set: {
      [TYPE.CAA](set, cx) {
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          const behind = 2 + data[1]!
          visit(
            { flags: data[0]!, tag: latin1Of(data, 2, behind), value: latin1Of(data, behind, data.length) },
            record,
            cx,
          )
        }
      },
    },
  }
}

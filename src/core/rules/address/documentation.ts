import type { RecordId } from '../../model/zones.ts'
import { type Network, specialNetwork } from '../../names/address-kinds.ts'
import type { Context, Rule } from '../rule.ts'
import { DOCUMENTATION } from '../traits.ts'
import { onAddress } from './visits.ts'

/** Whether a record stands further up in the files than another. */
function standsBefore({ zones }: Context, one: RecordId, other: RecordId): boolean {
  return (
    zones.sourceIndex(one) - zones.sourceIndex(other) < 0 ||
    (zones.sourceIndex(one) === zones.sourceIndex(other) && zones.start(one) < zones.start(other))
  )
}

export const addressDocumentation: Rule = {
  code: 'address/documentation',
  severity: 'advice',
  source: 'RFC 5737, RFC 3849, RFC 9637',
  title: 'address from a range reserved for documentation',
  why: 'These addresses are for manuals and examples. No host has one, so the record leads nowhere.',
  remedy: 'Write the host’s own address. In an example zone, leave it.',
  bad: ['www A 192.0.2.10', 'www AAAA 2001:db8::10'],
  good: ['www AAAA 2001:db9::10'],
  visit: onAddress(
    DOCUMENTATION,
    ({ records }, cx) => {
      const { zones } = cx
      const met = cx.memory(rangesMet)
      for (let i = 0; i < records.length; i++) {
        const record = records[i]!
        const network = specialNetwork(zones.data.octets, zones.dataStart(record), zones.dataOctets(record))
        if (network?.kind !== 'documentation') continue
        // Where there is one there are many: each range is spoken of once.
        const before = met.get(network)
        if (!before) met.set(network, { record, more: 0 })
        else {
          before.more++
          if (standsBefore(cx, record, before.record)) before.record = record
        }
      }
    },
    {
      finish(cx) {
        for (const [network, { record, more }] of cx.memory(rangesMet))
          cx.report({
            record,
            part: 0,
            message: `${cx.name(cx.zones.owner(record))} ${cx.record(record)}${more > 0 ? `, and ${more} more ${more === 1 ? 'record' : 'records'},` : ''} is in ${network.text}, which is reserved for documentation`,
            effect: 'No host has this address.',
            fix: ['write the host’s own address'],
          })
      },
    },
  ),
}

/** Of each range, the first record with an address of it, and how many more there are. */
const rangesMet = (): Map<Network, { record: RecordId; more: number }> => new Map()

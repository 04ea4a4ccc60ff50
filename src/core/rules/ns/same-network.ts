import { TYPE } from '../../records/types.ts'
import { hostAddresses, isPrivate } from '../look.ts'
import type { Rule } from '../rule.ts'

export const nsSameNetwork: Rule = {
  code: 'ns/same-network',
  severity: 'advice',
  source: 'RFC 2182 §3.1',
  title: 'name servers that are all in one network',
  why: 'Servers in one network fail together: one cut cable, one power failure, one routing mistake.',
  remedy: 'Place a secondary in another network.',
  bad: [
    'isle NS a\nisle NS b\na A 192.0.2.53\nb A 192.0.2.54',
    'isle NS a\nisle NS b\na A 192.0.2.53\na AAAA 2001:db8::53\nb A 192.0.2.54\nb AAAA 2001:db8::54',
  ],
  good: [
    'isle NS a\nisle NS b\na A 192.0.2.53\nb A 198.51.100.53',
    'isle NS a\nisle NS ns2.upland-dns.example.\na A 192.0.2.53',
  ],
  visit: {
    set: {
      [TYPE.NS](set, cx) {
        // Most zones' servers are elsewhere: then nothing need be made.
        if (
          set.records.length < 2 ||
          !hostAddresses(cx.zones, cx.zones.target(set.records[0]!)) ||
          isPrivate(cx.zones, set.zone)
        )
          return
        const networks = { [TYPE.A]: new Set<string>(), [TYPE.AAAA]: new Set<string>() }
        for (const record of set.records) {
          const records = hostAddresses(cx.zones, cx.zones.target(record))?.records ?? []
          if (records.length === 0) return
          for (const address of records) {
            const type = cx.zones.type(address) as keyof typeof networks
            networks[type].add(
              cx.zones
                .rdata(address)
                .subarray(0, type === TYPE.A ? 3 : 6)
                .join('.'),
            )
          }
        }
        if (
          networks[TYPE.A].size > 1 ||
          networks[TYPE.AAAA].size > 1 ||
          new Set(set.records.map((record) => cx.zones.target(record))).size < 2
        )
          return
        const address = cx.zones.rdataText(hostAddresses(cx.zones, cx.zones.target(set.records[0]!))!.records[0]!)
        cx.report({
          record: set.records[0],
          message: `all ${set.records.length} name servers of ${cx.name(set.owner)} are in the network of ${address}`,
          effect: 'When that network is unreachable, so is everything below the name.',
          fix: ['add a name server in another network'],
        })
      },
    },
  },
}

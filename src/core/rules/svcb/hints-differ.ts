import { addressText } from '../../names/address.ts'
import { u16At } from '../../names/octets.ts'
import { ROOT } from '../../names/tree.ts'
import { typeText } from '../../records/types.ts'
import { hostAddresses, listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { onBoth } from './visits.ts'

/** The addresses that a service binding hints at, by parameter: 4 (IPv4) and 6 (IPv6). */
function hintsOf(data: Uint8Array, from: number): Map<number, Uint8Array[]> {
  const found = new Map<number, Uint8Array[]>()
  for (let at = from; at + 4 <= data.length; at += 4 + u16At(data, at + 2)) {
    const key = u16At(data, at)
    const size = key === 4 ? 4 : key === 6 ? 16 : 0
    if (size === 0) continue
    const list: Uint8Array[] = []
    for (let here = at + 4; here < at + 4 + u16At(data, at + 2); here += size)
      list.push(data.subarray(here, here + size))
    found.set(key, list)
  }
  return found
}

export const svcbHintsDiffer: Rule = {
  code: 'svcb/hints-differ',
  severity: 'warning',
  source: 'RFC 9460 §7.3',
  title: 'SVCB or HTTPS address hints that differ from the target’s addresses',
  why: 'Clients may connect to the hints before they know the addresses. If a move forgets them, some visitors go to the old host.',
  remedy: 'Use the target’s addresses as hints, or none.',
  bad: ['www HTTPS 1 . ipv4hint=192.0.2.66\nwww A 192.0.2.10'],
  good: [
    'www HTTPS 1 . ipv4hint=192.0.2.10\nwww A 192.0.2.10\nwww A 192.0.2.11',
    'www HTTPS 1 site.northlight.example. ipv4hint=192.0.2.66',
  ],
  visit: onBoth((set, cx) => {
    for (const record of set.records) {
      const data = cx.zones.rdata(record)
      const target = cx.zones.target(record)
      const host = hostAddresses(cx.zones, target === ROOT ? set.owner : target)
      const hints = hintsOf(data, 2 + cx.zones.tree.wireLength(target))
      if (!host || hints.size === 0) continue
      const known = new Set(host.records.map((each) => cx.zones.rdataText(each)))
      const wrong = [...hints.values()]
        .flat()
        .map(addressText)
        .filter((text) => !known.has(text))
      if (wrong.length === 0) continue
      cx.report({
        record,
        part: 2,
        message: `${typeText(set.type)} at ${cx.name(set.owner)} hints at ${listed(wrong)}; ${cx.name(target === ROOT ? set.owner : target)} has ${listed([...known]) || 'no address'}`,
        effect: 'Some clients connect to the hinted address.',
        fix: ['use the target’s addresses as hints, or remove the hints'],
      })
    }
  }),
}

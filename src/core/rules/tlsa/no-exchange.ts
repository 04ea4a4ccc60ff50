import { followAliases, locateWire, UNKNOWN } from '../../knowledge/answer.ts'
import type { RecordId } from '../../model/zones.ts'
import { nameToWire } from '../../names/name.ts'
import { type NameId, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, recordsOf } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { TLSA } from './example.ts'

export const tlsaNoExchange: Rule = {
  code: 'tlsa/no-exchange',
  severity: 'warning',
  source: 'RFC 7672 §3',
  title: 'TLSA record for SMTP at a name that is not an MX host',
  why: 'Senders look up TLSA at the MX hosts and nowhere else. At the domain itself, or at an old host, it has no effect.',
  remedy: 'Write it at each MX host.',
  bad: [`@ MX 10 mail\n_25._tcp TLSA ${TLSA}\nmail A 192.0.2.25\n@ A 192.0.2.10\nwww CNAME @`],
  good: [
    `@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`,
    `_25._tcp.news TLSA ${TLSA}\nnews A 192.0.2.25`,
  ],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        const { tree } = cx.zones
        if (tree.labelText(set.owner) === '_25' && tree.labelText(tree.parent(set.owner)) === '_tcp')
          cx.memory((): RecordId[] => []).push(set.records[0]!)
      },
    },
    finish(cx) {
      const { zones } = cx
      const found = cx.memory((): RecordId[] => [])
      if (found.length === 0) return
      const hosts = exchangesOf(cx)
      for (const record of found) {
        const host = zones.tree.parent(zones.tree.parent(zones.owner(record)))
        // A host without MX that has addresses takes its own mail (RFC 5321 §5.1).
        const isOwn = zones.records(host, TYPE.MX).length === 0 && addressesAt(zones, host).length > 0
        if (hosts.has(host) || isOwn) continue
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(host)} has a TLSA record for SMTP but is not an MX host of any of your zones`,
          effect: 'Senders do not look it up.',
          fix: [...hosts]
            .filter((each) => zones.zoneOf(each) !== undefined)
            .slice(0, 2)
            .map((each) => `_25._tcp.${cx.name(each)} ${cx.record(record)}`)
            .concat('or leave it if it is an MX host of a domain outside your zones'),
        })
      }
    },
  },
}

function exchangesOf(cx: Context): Set<NameId> {
  const hosts = new Set<NameId>()
  for (const record of recordsOf(cx.zones, TYPE.MX)) {
    const target = cx.zones.target(record)
    hosts.add(target)
    // Where an exchange is an alias, senders look at the name that it leads to as well (RFC 7672 §2.2.2).
    const { end, steps } =
      target === ROOT
        ? { end: undefined, steps: [] }
        : followAliases(cx.zones, nameToWire(cx.name(target)) as Uint8Array)
    const node = steps.length > 0 && end ? locateWire(cx.zones, end) : UNKNOWN
    if (node >= 0) hosts.add(node)
  }
  return hosts
}

import { locate, locateName, MISSING, zoneOfName } from '../../knowledge/answer.ts'
import { readSpf } from '../../mail/spf/record.ts'
import type { Zones } from '../../model/zones.ts'
import { addressText } from '../../names/address.ts'
import { nameToWire } from '../../names/name.ts'
import { reverseName } from '../../names/reverse.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, aliasEnd, isReverse, listed, spfAt } from '../look.ts'
import type { Context, Repair, Rule } from '../rule.ts'
import { two } from '../shared/reverse-example.ts'

/** Why the kept reverse zones do not lead from an address to a host, or undefined where they do, or nothing is known. */
function reverseTrouble(
  cx: Context,
  address: Uint8Array,
  host?: number,
): { message: string; name: string; repair?: Repair } | undefined {
  const { zones } = cx
  const name = reverseName(address)
  let node = locateName(zones, name)
  // Reverse names below a company's own range are often aliases (RFC 2317).
  if (node >= 0 && zones.hasCname(node)) node = aliasEnd(zones, node)
  if (node !== MISSING && node < 0) return undefined
  const names = node === MISSING ? [] : zones.records(node, TYPE.PTR)
  if (names.length === 0) {
    if (node !== MISSING && zones.zoneOf(node)?.complete === false) return undefined
    return {
      message: `${addressText(address)} has no PTR record`,
      name,
      repair: host === undefined ? undefined : addPtr(zones, name, host),
    }
  }
  if (host === undefined || names.some((record) => zones.target(record) === host)) return undefined
  return {
    message: `the PTR record of ${addressText(address)} points to ${listed(names.map((record) => zones.tree.text(zones.target(record))))}`,
    name,
  }
}

function addPtr(zones: Zones, name: string, host: number): Repair | undefined {
  const zone = zoneOfName(zones, name)
  const wire = nameToWire(zones.tree.text(host))
  return zone && typeof wire !== 'string' ? { zone, change: { owner: name, type: TYPE.PTR, data: [wire] } } : undefined
}

export const mxHostWithoutReverse: Rule = {
  code: 'mx/host-without-reverse',
  severity: 'warning',
  source: 'RFC 1912 §2.1',
  title: 'MX host or listed sender without a matching PTR record in your reverse zones',
  why: 'Hosts that receive mail usually send it, too. Receivers look up the reverse name of the sender’s address; without one, or with a different one, they reject the mail or treat it as suspicious.',
  remedy: 'Write a PTR record for the address that points to the host’s own name.',
  bad: [
    two('@ MX 10 mail\nmail A 192.0.2.25', '26 PTR mx.larkpost.example.'),
    two('@ TXT "v=spf1 ip4:192.0.2.25 -all"', '26 PTR mx.larkpost.example.'),
  ],
  good: [
    two(
      '@ MX 10 mail\nmail A 192.0.2.25\n@ TXT "v=spf1 ip4:192.0.2.25 ip4:198.51.100.7 -all"',
      '25 PTR mail.hollowmere.example.',
    ),
    '@ MX 10 mail\nmail A 192.0.2.25',
  ],
  visit: {
    applies: ({ zones }) => zones.zones.some(isReverse),
    set: {
      [TYPE.MX](set, cx) {
        const hosts = cx.memory(() => new Set<number>())
        for (const record of set.records) {
          const target = cx.zones.target(record)
          if (target === ROOT || locate(cx.zones, target) !== target || cx.zones.hasCname(target)) continue
          // A host is named once, at the first set that has it as an exchange.
          if (hosts.has(target)) continue
          hosts.add(target)
          for (const address of addressesAt(cx.zones, target)) {
            const trouble = reverseTrouble(cx, cx.zones.rdata(address), target)
            if (trouble)
              cx.report({
                record: address,
                message: `${cx.name(target)} receives mail, but ${trouble.message}`,
                effect: 'Receivers reject mail that it sends, or treat it as suspicious.',
                fix: [`${trouble.name} PTR ${cx.name(target)}`],
                repair: trouble.repair,
              })
          }
        }
      },
      [TYPE.TXT](set, cx) {
        const spf = spfAt(cx.zones, set.owner)
        if (spf === undefined) return
        for (const { network, qualifier, bits4, bits6, text } of readSpf(spf).record.mechanisms) {
          if (!network || qualifier === '-' || bits4 !== 32 || bits6 !== 128) continue
          const trouble = reverseTrouble(cx, network)
          if (trouble)
            cx.report({
              record: set.records.find((record) => cx.record(record).includes(text)) ?? set.records[0],
              part: 0,
              message: `${text} may send for ${cx.name(set.owner)}, but ${trouble.message}`,
              effect: 'Receivers reject mail that it sends, or treat it as suspicious.',
              fix: [`${trouble.name} PTR HOST.`],
            })
        }
      },
    },
  },
}

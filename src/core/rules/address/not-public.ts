import { fixedEnd } from '../../mail/spf/macro.ts'
import { isSpf, readSpf } from '../../mail/spf/record.ts'
import type { RecordId, Zone } from '../../model/zones.ts'
import { specialNetwork } from '../../names/address-kinds.ts'
import type { NameId } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { isStatedPrivate, named, recordsOf } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { SPECIAL } from '../traits.ts'
import { onAddress, special } from './visits.ts'

/** Names at and below which addresses are looked up by `exists:` of an SPF record, and stand for no host. */
function existsTargets(cx: Context): NameId[] {
  const found: NameId[] = []
  for (const record of recordsOf(cx.zones, TYPE.TXT)) {
    const text = joined(cx.zones.rdata(record))
    if (!isSpf(text)) continue
    for (const { name, macros } of readSpf(text).record.mechanisms) {
      if (name !== 'exists' || macros === undefined) continue
      const fixed = fixedEnd(macros, cx.name(cx.zones.owner(record)).replace(/\.$/, ''))
      const place = named(cx.zones, fixed.endsWith('.') ? fixed : `${fixed}.`)
      if (place > 0) found.push(place)
    }
  }
  return found
}

/** From so many on, addresses that are mostly not public are a matter of the zone. */
const FEW = 3

export const addressNotPublic: Rule = {
  code: 'address/not-public',
  severity: 'warning',
  source: 'RFC 6890',
  title: 'address in a public zone that is not reachable from the public Internet',
  why: 'Private, loopback and link-local addresses mean something in one network only. Elsewhere the host is missing, or another host answers, and the record reveals the layout of the network.',
  remedy: 'Write the public address, or keep internal names in a zone marked “audience: private” in bramblefront.yaml.',
  bad: [
    'intranet A 10.1.2.3',
    'nas AAAA fe80::1',
    'old AAAA fec0::7',
    'old AAAA 2002:c000:204::1',
    'relay A 192.88.99.1',
    'a A 10.0.0.1\nb A 10.0.0.2\nc A 10.0.0.3\nd A 192.0.2.10',
  ],
  good: [
    'localhost A 127.0.0.1\nlocalhost AAAA ::1',
    { zones: { 'ferries.internal': 'nas A 10.1.2.3' } },
    'turn A 192.0.0.10\nnat64 AAAA 64:ff9b::c000:221\nddos A 192.31.196.1',
    { zones: { 'hollowmere.example': 'nas A 10.1.2.3' }, traits: { 'hollowmere.example': { audience: 'private' } } },
    '7.2.0.192.block A 127.0.0.2\n8.2.0.192.block A 127.0.0.2\n9.2.0.192.block A 127.0.0.4',
    '@ TXT "v=spf1 exists:%{i}._list.hollowmere.example -all"\n192.0.2.9._list A 127.0.0.2',
    '@ TXT "v=spf1 exists:%{i}._list.%{d} -all"\n192.0.2.9._list A 127.0.0.2',
    '@ TXT "v=spf1 exists:%{i}._list.%{o} -all"\n192.0.2.9._list A 127.0.0.2',
    '@ TXT "v=spf1 exists:%{i}._list.%{d2} -all"\n192.0.2.9._list A 127.0.0.2',
  ],
  visit: onAddress(
    SPECIAL,
    (set, cx) => {
      if (isStatedPrivate(set.zone)) return
      special(set, cx, (record, { kind, unreachable }) => {
        if (!unreachable || (kind === 'loopback' && cx.zones.tree.labelText(set.owner) === 'localhost')) return
        const met = cx.memory(() => new Map<Zone, RecordId[]>())
        const records = met.get(set.zone)
        if (records) records.push(record)
        else met.set(set.zone, [record])
      })
    },
    {
      finish(cx) {
        const met = cx.memory(() => new Map<Zone, RecordId[]>())
        if (met.size === 0) return
        const { zones } = cx
        const lists = existsTargets(cx)
        const all = new Map<Zone, number>()
        cx.eachRecord((record) => {
          if (
            (zones.type(record) === TYPE.A || zones.type(record) === TYPE.AAAA) &&
            met.has(zones.zoneOfRecord(record))
          )
            all.set(zones.zoneOfRecord(record), (all.get(zones.zoneOfRecord(record)) ?? 0) + 1)
        })
        for (const [zone, found] of met) {
          const records = found.filter(
            (record) => !lists.some((list) => zones.tree.isAtOrBelow(zones.owner(record), list)),
          )
          const loopback = records.filter((record) => zones.type(record) === TYPE.A && zones.rdata(record)[0] === 127)
          // Lists of addresses answer with 127.0.0.N (RFC 5782 §2.1).
          const isList = loopback.length >= FEW && loopback.length * 2 > all.get(zone)!
          const left = isList ? records.filter((record) => !loopback.includes(record)) : records
          const mostly = left.length >= FEW && left.length * 2 > all.get(zone)!
          for (const record of mostly ? left.slice(0, 1) : left) {
            const { kind } = specialNetwork(zones.rdata(record))!
            cx.report({
              record,
              part: 0,
              message: mostly
                ? `${left.length === all.get(zone) ? `none of the ${left.length}` : `${left.length} of the ${all.get(zone)}`} addresses in ${zone.name} ${left.length === all.get(zone) ? 'is' : 'are not'} reachable from the public Internet; the first is ${cx.name(zones.owner(record))} ${cx.record(record)}`
                : `${cx.name(zones.owner(record))} has the address ${zones.rdataText(record)}, which is ${words(kind)}`,
              effect: 'It cannot be reached from the public Internet.',
              fix: [
                mostly
                  ? 'if the zone is for internal clients only, set “audience: private” for it in bramblefront.yaml'
                  : `${cx.name(zones.owner(record))} ${zones.type(record) === TYPE.A ? 'A' : 'AAAA'} PUBLIC-ADDRESS`,
              ],
            })
          }
        }
      },
    },
  ),
}

const WORDS: Partial<Record<string, string>> = {
  shared: 'shared by a provider’s customers',
  unspecified: 'no host’s',
  transition: 'of a way from IPv4 to IPv6 that was given up',
}

const words = (kind: string): string => WORDS[kind] ?? kind

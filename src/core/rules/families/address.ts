/** Addresses that are not for everybody. */

import { fixedEnd } from '../../mail/spf/macro.ts'
import { isSpf, readSpf } from '../../mail/spf/record.ts'
import type { RecordId, Zone } from '../../model/zones.ts'
import { addressText } from '../../names/address.ts'
import { type Network, specialNetwork } from '../../names/address-kinds.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { isPrivate, isStatedPrivate, named, recordsOf } from '../look.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { DOCUMENTATION, SPECIAL } from '../traits.ts'

const onAddress = (when: number, visit: (set: SetView, cx: Context) => void, more: Partial<Rule['visit']> = {}): Rule['visit'] => ({
  ...more,
  set: { [TYPE.A]: { when, visit }, [TYPE.AAAA]: { when, visit } },
})

/** Each record of the set in a special network. */
function special(set: SetView, cx: Context, visit: (record: RecordId, network: Network) => void): void {
  for (const record of set.records) {
    const network = specialNetwork(cx.zones.data.octets, cx.zones.dataStart(record), cx.zones.dataOctets(record))
    if (network) visit(record, network)
  }
}

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
  title: 'an address that nobody outside can reach, in a public zone',
  why: 'Private, loopback and link-local addresses mean something in one network only. From outside, the host is not there, or another host answers; and the network’s layout is told to everybody.',
  remedy: 'Write the public address; or keep such names in a zone for insiders, with “audience: private”.',
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
          if ((zones.type(record) === TYPE.A || zones.type(record) === TYPE.AAAA) && met.has(zones.zoneOfRecord(record)))
            all.set(zones.zoneOfRecord(record), (all.get(zones.zoneOfRecord(record)) ?? 0) + 1)
        })
        for (const [zone, found] of met) {
          const records = found.filter((record) => !lists.some((list) => zones.tree.isAtOrBelow(zones.owner(record), list)))
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
                ? `${left.length === all.get(zone) ? `none of the ${left.length}` : `${left.length} of the ${all.get(zone)}`} addresses in ${zone.name} ${left.length === all.get(zone) ? 'is' : 'are not'} public, ${cx.name(zones.owner(record))} ${cx.record(record)} first`
                : `${cx.name(zones.owner(record))} has the address ${zones.rdataText(record)}, which is ${words(kind)}`,
              consequence: 'Nobody outside reaches it there.',
              fix: [
                mostly
                  ? 'state “audience: private” for the zone in bramblefront.yaml, if it is for insiders'
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

/** Whether a record stands further up in the files than another. */
function standsBefore({ zones }: Context, one: RecordId, other: RecordId): boolean {
  return zones.sourceIndex(one) - zones.sourceIndex(other) < 0 || (zones.sourceIndex(one) === zones.sourceIndex(other) && zones.start(one) < zones.start(other))
}

export const addressDocumentation: Rule = {
  code: 'address/documentation',
  severity: 'advice',
  source: 'RFC 5737, RFC 3849, RFC 9637',
  title: 'an address of the ranges for documentation',
  why: 'Such addresses stand in handbooks and examples. No host has them, so the record leads nowhere.',
  remedy: 'Write the host’s own address. In a zone that is an example, leave it so.',
  bad: ['www A 192.0.2.10', 'www AAAA 2001:db8::10'],
  good: ['www AAAA 2001:db9::10'],
  visit: onAddress(
    DOCUMENTATION,
    ({ records }, cx) => {
      const { zones } = cx
      const met = cx.memory(rangesMet)
      for (let i = 0; i < records.length; i++) {
        const record = records[i]
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
            message: `${cx.name(cx.zones.owner(record))} ${cx.record(record)}${more > 0 ? `, and ${more} more ${more === 1 ? 'record' : 'records'},` : ''} in ${network.text}, a range for documentation`,
            consequence: 'No host has such an address.',
            fix: ['write the host’s own address'],
          })
      },
    },
  ),
}

/** Of each range, the first record with an address of it, and how many more there are. */
const rangesMet = (): Map<Network, { record: RecordId; more: number }> => new Map()

export const addressMapped: Rule = {
  code: 'address/mapped',
  severity: 'warning',
  source: 'RFC 4291 §2.5.5.2',
  title: 'an IPv4 address mapped into AAAA',
  why: 'Addresses such as ::ffff:192.0.2.1 exist inside a program only. On the wire nothing answers there, and clients that prefer IPv6 wait in vain.',
  remedy: 'Write the IPv4 address as A.',
  bad: ['www AAAA ::ffff:192.0.2.10'],
  good: ['www A 192.0.2.10\nwww AAAA 2001:db8::10'],
  visit: {
    set: {
      [TYPE.AAAA]: {
        when: SPECIAL,
        visit(set, cx) {
          special(set, cx, (record, { kind }) => {
            if (kind !== 'mapped') return
            cx.report({
              record,
              part: 0,
              message: `${cx.name(set.owner)} has the mapped address ${cx.zones.rdataText(record)} as AAAA`,
              consequence: 'Clients that prefer IPv6 cannot connect.',
              fix: [`${cx.name(set.owner)} A ${addressText(cx.zones.rdata(record).subarray(12))}`],
            })
          })
        },
      },
    },
  },
}

export const hostWwwMissing: Rule = {
  code: 'host/www-missing',
  severity: 'advice',
  source: 'practice',
  title: 'addresses at a zone’s top, and no www beside it',
  why: 'Many people type www in front of a domain out of habit. They are told that the site does not exist.',
  remedy: 'Write www as an alias of the top.',
  bad: ['@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.'],
  good: ['@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.\nwww CNAME @', '@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.\n* A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      const { tree } = cx.zones
      if (zone.complete === false || !cx.isAbout(zone.apex) || cx.zones.zoneWithApex(zone.apex) !== zone) return
      const [address] = [...cx.zones.records(zone.apex, TYPE.A), ...cx.zones.records(zone.apex, TYPE.AAAA)]
      if (address === undefined || tree.labelText(zone.apex) === 'www' || isPrivate(cx.zones, zone)) return
      const [www, star] = [tree.find(zone.apex, WWW, 0, 3), tree.find(zone.apex, STAR, 0, 1)]
      if ([www, star].some((name) => name !== NONE && cx.zones.exists(name))) return
      if (cx.sourcesOf(zone).some(({ problems }) => problems.some((problem) => problem.owner !== undefined && problem.owner === www))) return
      cx.report({
        record: address,
        part: 'type',
        message: `${zone.name} has addresses, and there is no www.${zone.name}`,
        consequence: 'Who types www is told that there is no such site.',
        fix: [`www.${zone.name} CNAME ${zone.name}`],
      })
    },
  },
}

const WWW = Uint8Array.from('www', (sign) => sign.charCodeAt(0))
const STAR = new Uint8Array([0x2a])

/** Which names should have an SPF record and have none, and hosts that a record should speak of. */

import { locate, locateName, UNKNOWN } from '../../knowledge/answer.ts'
import { targetOf } from '../../mail/spf/budget.ts'
import { letsSend, readSpf, type SpfRecord } from '../../mail/spf/record.ts'
import { DROPPED, type RecordId, type Zone, type Zones } from '../../model/zones.ts'
import { isIn } from '../../names/address-kinds.ts'
import { bare, foldName, type Name } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, hostAddresses, isOfMail, listed } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { intendedSpf, SPF_READ } from '../shared/spf-text.ts'
import { spfRecordAt, textLine } from '../text.ts'
import { WITH_SPF } from '../traits.ts'

/** Whether a record lets a host of these names and addresses send, as far as the zones know. */
function lets(
  zones: Zones,
  spf: SpfRecord,
  domain: Name,
  host: { exchange: boolean; name: Name; addresses: Uint8Array[] },
  above?: Set<string>,
): 'yes' | 'no' | 'unknown' {
  const seen = above ?? new Set<string>()
  let unknown = false
  for (const mechanism of spf.mechanisms) {
    if (mechanism.name === 'all') return mechanism.qualifier === '+' ? 'yes' : unknown ? 'unknown' : 'no'
    if (mechanism.qualifier !== '+') {
      unknown = true
      continue
    }
    const { network, bits4, bits6, name } = mechanism
    if (network) {
      if (
        host.addresses.some(
          (each) => each.length === network.length && isIn(each, network, each.length === 4 ? bits4 : bits6),
        )
      )
        return 'yes'
      continue
    }
    const target = targetOf(mechanism, domain)
    if (target === undefined) unknown = true
    else if (name === 'mx' && foldName(target) === foldName(domain) && host.exchange && !above) return 'yes'
    else if (name === 'a' && foldName(target) === foldName(host.name)) return 'yes'
    else if (name === 'include' && seen.size < 20 && !seen.has(foldName(target))) {
      seen.add(foldName(target))
      const known = intendedSpf(zones, target)
      const inner = typeof known === 'string' ? 'unknown' : lets(zones, readSpf(known.text).record, target, host, seen)
      if (inner === 'yes') return 'yes'
      unknown ||= inner === 'unknown'
    } else if (name === 'a' || name === 'mx') unknown ||= known(zones, target, host.addresses)
    else unknown = true
  }
  return spf.redirect || unknown ? 'unknown' : 'no'
}

/** Whether a name that is none of the host's may yet stand for its address. */
function known(zones: Zones, target: Name, addresses: readonly Uint8Array[]): boolean {
  const node = locateName(zones, target)
  if (node < 0) return node === UNKNOWN
  return (
    addressesAt(zones, node).some((record) =>
      addresses.some((each) => isIn(each, zones.rdata(record), each.length * 8)),
    ) ||
    zones.has(node, TYPE.MX) ||
    zones.hasCname(node)
  )
}

/** A host without an SPF record of its own; one that sends by what it says itself, or by who submits mail to it. */
const SILENT = 1

const SENDS = 2

/** Neither; it may yet send, by who submits mail to it. */
const UNSAID = 4

interface Host {
  /** The name that answers for it. */
  at: NameId
  bits: number
}

/** Exchanges as they are named, and records whose domain does not let its own exchange send. */
const seen = (cx: Context) => cx.memory(noneSeen)

const noneSeen = () => ({
  hosts: new Map<NameId, Host>(),
  denied: [] as { record: RecordId; host: Host }[],
  silent: new Map<Zone, { at: NameId; record: RecordId }[]>(),
})

/** Looks at each exchange in a kept zone, for each domain that has it. Both rules come of it. */
export const EXCHANGES: Rule['visit'] = {
  set: {
    [TYPE.MX]: {
      when: WITH_SPF,
      visit(set, cx) {
        const { zones } = cx
        const { hosts, denied, silent } = seen(cx)
        for (const record of set.records) {
          const target = zones.target(record)
          let host = hosts.get(target)
          if (!host) hosts.set(target, (host = hostAt(zones, target)))
          if (host.bits === 0 || !isOfMail(cx.zones, set.zone)) continue
          const says = whatIsSaid(zones, record, set.owner, target)
          if (says === 'no' && set.owner !== host.at) denied.push({ record, host })
          if (says !== 'yes' || !(host.bits & SILENT)) continue
          host.bits = UNSAID
          const zone = zones.zoneOf(host.at) ?? set.zone
          const told = { at: host.at, record: addressesAt(zones, host.at)[0] ?? record }
          silent.set(zone, [...(silent.get(zone) ?? []), told])
        }
      },
    },
  },
  finish(cx) {
    const { zones } = cx
    const { denied, silent } = seen(cx)
    // Once a zone: they are mended together.
    for (const found of silent.values()) {
      const names = found.map(({ at }) => cx.name(at))
      cx.report({
        code: 'spf/host-without-record',
        record: found[0]!.record,
        part: 'owner',
        message: `${names.length === 1 ? `${names[0]} sends mail but has` : `${listed(names)} send mail but have`} no SPF record of ${names.length === 1 ? 'its' : 'their'} own`,
        effect:
          'SPF for bounces, which have no envelope sender, is checked at the name of the host and gives no result.',
        fix: names.map((name) => textLine(name, 'v=spf1 a -all')),
        also: found.slice(1).map(({ record }) => record),
      })
    }
    const submission = denied.some(({ host }) => !(host.bits & SENDS)) ? submissionHosts(zones) : new Set<NameId>()
    for (const { record, host } of denied) {
      if (!(host.bits & SENDS) && !submission.has(host.at)) continue
      const [name, domain] = [cx.name(host.at), cx.name(zones.owner(record))]
      cx.report({
        code: 'spf/exchange-not-allowed',
        record,
        part: 1,
        message: `${name} is an MX host of ${domain} that also sends mail, but the SPF record of ${domain} does not allow it`,
        effect: 'Mail that it sends in the domain’s name fails SPF.',
        fix: [`bramblefront write spf ${bare(domain)} --allow mx`],
      })
    }
  },
}

/** What is to be asked of an exchange: nothing where it is not known. */
function hostAt(zones: Zones, target: NameId): Host {
  const at = target === ROOT ? NONE : locate(zones, target)
  if (at < 0) return { at, bits: 0 }
  const text = spfRecordAt(zones, at)
  if (text !== NONE) return { at, bits: letsSend(SPF_READ.of(zones, text).text) ? SENDS : 0 }
  // A host that takes mail as a domain, or is a zone’s top, is another rule’s.
  return { at, bits: at !== zones.zoneOf(at)?.apex && !zones.has(at, TYPE.MX) && !zones.hasCname(at) ? SILENT : UNSAID }
}

/** The hosts that people submit their mail to. */
function submissionHosts(zones: Zones): Set<NameId> {
  const { tree } = zones
  const found = new Set<NameId>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.type(record) !== TYPE.SRV || zones.flags(record) & DROPPED) continue
    // Most services are others: their names need not be made.
    const owner = zones.owner(record)
    if (
      tree.labelOctet(owner, 1) === 0x73 &&
      tree.labelOctet(owner, 2) === 0x75 &&
      SUBMISSION.test(tree.labelText(owner))
    )
      found.add(zones.target(record))
  }
  return found
}

/** Whether the first term is a plain `mx`, as most records have it: nothing else need be looked at. */
function beginsWithMx(zones: Zones, text: RecordId): boolean {
  const { octets } = zones.data
  const at = zones.dataStart(text)
  return (
    octets[at]! >= 9 &&
    octets[at + 8] === 0x6d &&
    octets[at + 9] === 0x78 &&
    (octets[at] === 9 || octets[at + 10] === 0x20)
  )
}

/** What the SPF record of a domain says of one of its exchanges. */
function whatIsSaid(zones: Zones, record: RecordId, owner: NameId, target: NameId): 'yes' | 'no' | 'unknown' {
  const text = spfRecordAt(zones, owner)
  if (text !== NONE && beginsWithMx(zones, text)) return 'yes'
  const { record: spf, letsExchanges } =
    text === NONE ? { record: undefined, letsExchanges: false } : SPF_READ.of(zones, text)
  if (!spf || letsExchanges) return spf ? 'yes' : 'unknown'
  const host = hostAddresses(zones, target)
  if (!host || host.records.length === 0) return 'unknown'
  const exchange = {
    exchange: true,
    name: zones.tree.text(zones.target(record)),
    addresses: host.records.map((each) => zones.rdata(each)),
  }
  return lets(zones, spf, zones.tree.text(owner), exchange)
}

const SUBMISSION = /^_submissions?$/

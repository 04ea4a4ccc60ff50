/** Which names should have an SPF record and have none, and hosts that a record should speak of. */
import { locate, locateName, UNKNOWN } from '../../knowledge/answer.ts'
import { targetOf } from '../../mail/spf/budget.ts'
import { letsSend, readSpf, type SpfRecord } from '../../mail/spf/record.ts'
import { DROPPED, type RecordId, type Zone, type Zones } from '../../model/zones.ts'
import { isIn } from '../../names/address-kinds.ts'
import { bare, foldName, type Name } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, hostAddresses, isOfMail } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { hasSpf, spfRecordAt, textLine } from '../text.ts'
import { AT_TOP, NO_SPF, SCOPED, WITH_SPF } from '../traits.ts'
import { keptSpf, SPF_READ } from './spf-record.ts'

const isNullMx = (zones: Zones, record: RecordId): boolean => zones.target(record) === ROOT

function lacking(cx: Context, record: RecordId, owner: NameId, what: string, consequence: string): void {
  const takesNone = cx.zones.type(record) === TYPE.MX && isNullMx(cx.zones, record)
  const mx = cx.zones.has(owner, TYPE.MX)
  cx.report({
    record,
    part: 'owner',
    message: `${cx.name(owner)} ${what}, and no SPF record`,
    consequence,
    fix: [
      textLine(cx.name(owner), takesNone ? 'v=spf1 -all' : mx ? 'v=spf1 mx ~all' : 'v=spf1 -all'),
      ...(takesNone || mx ? [] : ['that is for a domain that sends no mail']),
    ],
  })
}

export const spfMissing: Rule = {
  code: 'spf/missing',
  severity: 'warning',
  source: 'RFC 7208 §10',
  title: 'a name with MX, or a zone’s top with addresses, and no SPF record',
  why: 'Anybody can send in its name, and large receivers refuse or suspect mail from domains without SPF, also yours.',
  remedy: 'Write one: who sends, or v=spf1 -all for a domain that sends nothing.',
  bad: ['@ MX 10 mx.larkpost.example.', '@ A 192.0.2.10\nwww A 192.0.2.10'],
  good: [
    '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
    'www A 192.0.2.10',
    {
      whole: true,
      zones: {
        '2.0.192.in-addr.arpa':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n@ A 192.0.2.10',
      },
    },
    { zones: { 'hollowmere.example': '@ MX 10 mx.larkpost.example.' }, traits: { 'hollowmere.example': { complete: false } } },
  ],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NO_SPF,
        visit(set, cx) {
          if (!isOfMail(cx.zones, set.zone) || cx.zones.tree.isWildcard(set.owner)) return
          lacking(cx, set.records[0], set.owner, 'has MX', 'Anybody can send in its name; its own mail is suspect.')
        },
      },
      [TYPE.A]: { when: AT_TOP, visit: (set, cx) => topWithAddress(set.records[0], set.owner, set.zone, cx) },
      [TYPE.AAAA]: {
        when: AT_TOP,
        visit(set, cx) {
          if (!cx.zones.has(set.owner, TYPE.A)) topWithAddress(set.records[0], set.owner, set.zone, cx)
        },
      },
    },
  },
}

function topWithAddress(record: RecordId, owner: NameId, zone: Zone, cx: Context): void {
  if (hasSpf(cx.zones, owner) || cx.zones.has(owner, TYPE.MX) || !isOfMail(cx.zones, zone)) return
  lacking(cx, record, owner, 'has addresses', 'Anybody can send in its name.')
}

export const spfNotInherited: Rule = {
  code: 'spf/not-inherited',
  severity: 'advice',
  source: 'RFC 7208 §4',
  title: 'a name below a domain with SPF that takes or sends mail, without SPF of its own',
  why: 'SPF is not inherited: receivers look at exactly the name behind the “@”. The domain’s record says nothing for a name below it.',
  remedy: 'Write a record at the name too; redirect= to the domain’s serves where the same hosts send.',
  silences: ['spf/missing'],
  bad: [
    '@ TXT "v=spf1 ip4:192.0.2.25 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nnews MX 10 mx.larkpost.example.',
    '@ TXT "v=spf1 ip4:192.0.2.25 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\n_dmarc.news TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nnews A 192.0.2.30',
  ],
  good: [
    '@ TXT "v=spf1 ip4:192.0.2.25 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nnews MX 10 mx.larkpost.example.\nnews TXT "v=spf1 redirect=hollowmere.example"',
  ],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NO_SPF,
        visit(set, cx) {
          const { zones } = cx
          if (set.owner === set.zone.apex || !isOfMail(cx.zones, set.zone) || zones.tree.isWildcard(set.owner) || !hasSpf(zones, set.zone.apex)) return
          notInherited(cx, set.records[0], set.owner, set.zone, 'takes mail')
        },
      },
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          const { zones } = cx
          const { tree } = zones
          if (tree.labelOctet(set.owner, 0) !== 0x5f || tree.labelText(set.owner) !== '_dmarc') return
          const owner = tree.parent(set.owner)
          if (owner === set.zone.apex || zones.first(owner) === NONE || zones.has(owner, TYPE.MX) || zones.hasCname(owner)) return
          if (hasSpf(zones, owner) || !isOfMail(cx.zones, set.zone) || !hasSpf(zones, set.zone.apex)) return
          notInherited(cx, set.records[0], owner, set.zone, 'has a DMARC policy')
        },
      },
    },
  },
}

function notInherited(cx: Context, record: RecordId, owner: NameId, zone: Zone, does: string): void {
  cx.report({
    record,
    part: 'owner',
    message: `${cx.name(owner)} ${does}, and has no SPF record; that of ${zone.name} does not count for it`,
    consequence: 'By SPF, mail from it neither passes nor fails: anybody can send in its name.',
    fix: [textLine(cx.name(owner), `v=spf1 redirect=${bare(zone.name)}`)],
  })
}

export const spfWildcardExchange: Rule = {
  code: 'spf/wildcard-exchange',
  severity: 'advice',
  source: 'RFC 7208 §4, §10',
  title: 'a wildcard MX without a wildcard SPF record beside it',
  why: 'Every made-up name below the domain takes mail, so it looks like a domain that may send, and no record says that it does not.',
  remedy: 'Write an SPF record at the wildcard.',
  bad: ['* MX 10 mx.larkpost.example.'],
  good: ['* MX 10 mx.larkpost.example.\n* TXT "v=spf1 -all"'],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NO_SPF,
        visit(set, cx) {
          if (!cx.zones.tree.isWildcard(set.owner) || !isOfMail(cx.zones, set.zone)) return
          cx.report({
            record: set.records[0],
            part: 'owner',
            message: `${cx.name(set.owner)} has MX, and no SPF record`,
            consequence: 'Anybody can send as any name below it.',
            fix: [textLine(cx.name(set.owner), 'v=spf1 -all'), 'if nothing sends as such a name'],
          })
        },
      },
    },
  },
}

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
      if (host.addresses.some((each) => each.length === network.length && isIn(each, network, each.length === 4 ? bits4 : bits6))) return 'yes'
      continue
    }
    const target = targetOf(mechanism, domain)
    if (target === undefined) unknown = true
    else if (name === 'mx' && foldName(target) === foldName(domain) && host.exchange && !above) return 'yes'
    else if (name === 'a' && foldName(target) === foldName(host.name)) return 'yes'
    else if (name === 'include' && seen.size < 20 && !seen.has(foldName(target))) {
      seen.add(foldName(target))
      const known = keptSpf(zones, target)
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
    addressesAt(zones, node).some((record) => addresses.some((each) => isIn(each, zones.rdata(record), each.length * 8))) ||
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
const noneSeen = () => ({ hosts: new Map<NameId, Host>(), denied: [] as { record: RecordId; host: Host }[] })

/** Looks at each exchange in a kept zone, for each domain that has it. Both rules come of it. */
const EXCHANGES: Rule['visit'] = {
  set: {
    [TYPE.MX]: {
      when: WITH_SPF,
      visit(set, cx) {
        const { zones } = cx
        const { hosts, denied } = seen(cx)
        for (const record of set.records) {
          const target = zones.target(record)
          let host = hosts.get(target)
          if (!host) hosts.set(target, (host = hostAt(zones, target)))
          if (host.bits === 0 || !isOfMail(cx.zones, set.zone)) continue
          const says = whatIsSaid(zones, record, set.owner, target)
          if (says === 'no' && set.owner !== host.at) denied.push({ record, host })
          if (says !== 'yes' || !(host.bits & SILENT)) continue
          host.bits = UNSAID
          const name = cx.name(host.at)
          cx.report({
            code: 'spf/host-without-record',
            record: addressesAt(zones, host.at)[0] ?? record,
            part: 'owner',
            message: `${name} sends mail, and has no SPF record of its own`,
            consequence: 'Its bounces, which have no envelope sender, are judged by this name, and neither pass nor fail.',
            fix: [textLine(name, 'v=spf1 a -all')],
          })
        }
      },
    },
  },
  finish(cx) {
    const { zones } = cx
    const { denied } = seen(cx)
    const submission = denied.some(({ host }) => !(host.bits & SENDS)) ? submissionHosts(zones) : new Set<NameId>()
    for (const { record, host } of denied) {
      if (!(host.bits & SENDS) && !submission.has(host.at)) continue
      const [name, domain] = [cx.name(host.at), cx.name(zones.owner(record))]
      cx.report({
        code: 'spf/exchange-not-allowed',
        record,
        part: 1,
        message: `${name} is an exchange of ${domain} and sends mail, and the SPF record of ${domain} does not let it`,
        consequence: 'What it sends in the domain’s name fails SPF.',
        fix: [`add mx to the SPF record of ${domain}`],
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
    if (tree.labelOctet(owner, 1) === 0x73 && tree.labelOctet(owner, 2) === 0x75 && SUBMISSION.test(tree.labelText(owner))) found.add(zones.target(record))
  }
  return found
}

/** Whether the first term is a plain `mx`, as most records have it: nothing else need be looked at. */
function beginsWithMx(zones: Zones, text: RecordId): boolean {
  const { octets } = zones.data
  const at = zones.dataStart(text)
  return octets[at] >= 9 && octets[at + 8] === 0x6d && octets[at + 9] === 0x78 && (octets[at] === 9 || octets[at + 10] === 0x20)
}

/** What the SPF record of a domain says of one of its exchanges. */
function whatIsSaid(zones: Zones, record: RecordId, owner: NameId, target: NameId): 'yes' | 'no' | 'unknown' {
  const text = spfRecordAt(zones, owner)
  if (text !== NONE && beginsWithMx(zones, text)) return 'yes'
  const { record: spf, letsExchanges } = text === NONE ? { record: undefined, letsExchanges: false } : SPF_READ.of(zones, text)
  if (!spf || letsExchanges) return spf ? 'yes' : 'unknown'
  const host = hostAddresses(zones, target)
  if (!host || host.records.length === 0) return 'unknown'
  const exchange = { exchange: true, name: zones.tree.text(zones.target(record)), addresses: host.records.map((each) => zones.rdata(each)) }
  return lets(zones, spf, zones.tree.text(owner), exchange)
}

export const spfHostWithoutRecord: Rule = {
  code: 'spf/host-without-record',
  severity: 'advice',
  source: 'RFC 7208 §2.3, §10.1.3',
  title: 'an exchange that also sends, without an SPF record at its own name',
  why: 'Bounces have no envelope sender. Receivers then judge the name that the host says it has (EHLO), which is its own.',
  remedy: 'Write v=spf1 a -all at the host’s name.',
  bad: ['@ MX 10 mail\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25'],
  good: [
    '@ MX 10 mail\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 include:_spf.larkpost.example -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25',
  ],
  visit: EXCHANGES,
}

const SUBMISSION = /^_submissions?$/

export const spfExchangeNotAllowed: Rule = {
  code: 'spf/exchange-not-allowed',
  severity: 'advice',
  source: 'practice',
  title: 'a domain’s own exchange that also sends, and that its SPF record does not let send',
  why: 'A host with an SPF record of its own, or one that people submit their mail to, sends. What it sends for the domain fails.',
  remedy: 'Add mx, or the host, to the record.',
  bad: [
    '@ MX 10 mail\n@ TXT "v=spf1 ip4:192.0.2.99 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 ip4:192.0.2.99 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\n_submissions._tcp SRV 0 1 465 mail\n_imaps._tcp SRV 0 1 993 mail',
  ],
  good: [
    '@ MX 10 mail\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 ip4:192.0.2.0/24 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
    '@ MX 10 mail\n@ TXT "v=spf1 include:_spf.larkpost.example -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nmail A 192.0.2.25\nmail TXT "v=spf1 a -all"',
  ],
  visit: EXCHANGES,
}

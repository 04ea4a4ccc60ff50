/** Who receives a domain's mail: null MX, fallbacks, and what an exchange must not be. */

import { letsSend } from '../../mail/spf/record.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { mx } from '../../records/views.ts'
import { addressesAt, hostAddresses, isPrivate, isReverse, listed, spfAt } from '../look.ts'
import type { Context, Rule, SetView, SetVisit } from '../rule.ts'
import { ANY, NULL_TARGET, SEVERAL, SINGLE, TOP_TARGET, V6_TARGET, WILDCARD } from '../traits.ts'

const isNull = (zones: Zones, record: RecordId): boolean => zones.target(record) === ROOT
const preference = (zones: Zones, record: RecordId): number => mx(zones.rdata(record)).preference
/** The exchanges of a set, null MX left away. */
const exchanges = (zones: Zones, set: SetView): RecordId[] => set.records.filter((record) => !isNull(zones, record))

/** A rule about MX sets. */
const onMx = (when: number, visit: SetVisit): Rule['visit'] => ({ set: { [TYPE.MX]: { when, visit } } })

export const mxNullPreference: Rule = {
  code: 'mx/null-preference',
  severity: 'warning',
  source: 'RFC 7505 §3',
  title: 'a null MX whose preference is not 0',
  why: 'The null MX is “0 .”. Senders that compare exactly take another number for a host that cannot be found, and keep the mail for days before they give up.',
  remedy: 'Write MX 0 .',
  bad: ['@ MX 10 .\n@ TXT "v=spf1 -all"'],
  good: ['@ MX 0 .\n@ TXT "v=spf1 -all"'],
  visit: onMx(NULL_TARGET, (set, cx) => {
    const [record] = set.records
    if (set.records.length > 1 || !isNull(cx.zones, record) || preference(cx.zones, record) === 0) return
    cx.report({
      record,
      part: 0,
      message: `the null MX of ${cx.name(set.owner)} has preference ${preference(cx.zones, record)}`,
      consequence: 'Some senders do not take it for a null MX, and try to deliver.',
      fix: [`${cx.name(set.owner)} MX 0 .`],
      repair: cx.rewriting(record, 0, '0'),
    })
  }),
}

export const mxNullYetSends: Rule = {
  code: 'mx/null-yet-sends',
  severity: 'warning',
  source: 'RFC 7505 §4.2',
  title: 'a null MX at a domain whose SPF lets hosts send, or that has none',
  why: 'Nobody can answer mail from a domain that takes none, so receivers refuse it. Without “v=spf1 -all”, anybody can send in the domain’s name.',
  remedy: 'If the domain does no mail, write v=spf1 -all. If it sends, give it an exchange.',
  bad: ['@ MX 0 .\n@ TXT "v=spf1 ip4:192.0.2.25 -all"', '@ MX 0 .'],
  good: ['@ MX 0 .\n@ TXT "v=spf1 -all"', '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"'],
  visit: onMx(NULL_TARGET, (set, cx) => {
    if (!set.records.every((record) => isNull(cx.zones, record)) || isReverse(set.zone)) return
    const spf = spfAt(cx.zones, set.owner)
    if (spf === undefined ? set.zone.complete === false : !letsSend(spf)) return
    cx.report({
      record: set.records[0],
      message:
        spf === undefined
          ? `${cx.name(set.owner)} takes no mail, and has no SPF record that says that it sends none`
          : `${cx.name(set.owner)} takes no mail, and its SPF lets hosts send: ${spf.slice(0, 120)}`,
      consequence: spf === undefined ? 'Anybody can send in its name.' : 'Receivers refuse mail that cannot be answered.',
      fix: [`${cx.name(set.owner)} TXT "v=spf1 -all"`],
    })
  }),
}

export const mxWildcard: Rule = {
  code: 'mx/wildcard',
  severity: 'advice',
  source: 'RFC 4592 §4, RFC 1912 §2.7',
  title: 'MX at a wildcard',
  why: 'It takes mail for every name that does not exist, mis-typed ones included, and for none that does: a host with an address alone is not covered.',
  remedy: 'Write an MX set at each name that is meant to take mail.',
  bad: ['*.lake MX 10 mx.larkpost.example.'],
  good: ['news MX 10 mx.larkpost.example.\n*.lake A 192.0.2.10'],
  visit: onMx(WILDCARD, (set, cx) => {
    if (!cx.zones.tree.isWildcard(set.owner) || exchanges(cx.zones, set).length === 0) return
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `mail for every name below ${cx.name(cx.zones.tree.parent(set.owner))} that does not exist goes to ${listed(set.records.map((record) => cx.name(cx.zones.target(record))))}`,
      consequence: 'Mail to mis-typed domains is taken, and names that exist are not covered.',
      fix: ['write MX at the names that are meant'],
    })
  }),
}

/** What is equal for exchanges that are one host: the addresses of a name, or the name itself where it has none that are known. */
function hostKey(cx: Context, target: NameId): string {
  // The same few hosts take the mail of many names.
  const known = cx.memory(() => new Map<NameId, string>())
  let key = known.get(target)
  if (key === undefined) {
    const addresses = (hostAddresses(cx.zones, target)?.records ?? []).map((record) => cx.zones.rdata(record).join(' '))
    known.set(target, (key = addresses.length === 0 ? `#${target}` : [...new Set(addresses)].sort().join(',')))
  }
  return key
}

export const mxSameHostTwice: Rule = {
  code: 'mx/same-host-twice',
  severity: 'advice',
  source: 'RFC 5321 §5.1',
  title: 'two exchanges that are one host',
  why: 'When the host is down, so is its fallback: the second line only looks like one.',
  remedy: 'Take one out, or point the fallback at another host.',
  bad: ['@ MX 10 mail\n@ MX 20 mail\nmail A 192.0.2.25', '@ MX 10 mail\n@ MX 20 mx\nmail A 192.0.2.25\nmx A 192.0.2.25'],
  good: ['@ MX 10 mail\n@ MX 20 mx\nmail A 192.0.2.25\nmx A 192.0.2.26'],
  visit: onMx(SEVERAL, (set, cx) => {
    if (set.records.length < 2) return
    const firsts = new Map<string, RecordId>()
    for (const record of set.records) {
      const target = cx.zones.target(record)
      if (target === ROOT) continue
      const key = hostKey(cx, target)
      const first = firsts.get(key)
      if (first === undefined) firsts.set(key, record)
      if (first !== undefined && (cx.zones.target(first) !== target || preference(cx.zones, first) !== preference(cx.zones, record)))
        cx.report({
          record,
          part: 1,
          message: `${cx.record(record)} at ${cx.name(set.owner)} is the same host as ${cx.record(first)} (${cx.where(first, record)})`,
          consequence: 'It is no fallback: both are down at once.',
          fix: [`take out ${cx.name(set.owner)} ${cx.record(record)}, or name another host`],
        })
    }
  }),
}

export const mxSingle: Rule = {
  code: 'mx/single',
  severity: 'advice',
  source: 'practice',
  title: 'one exchange only',
  why: 'While it is down, mail waits with the senders: most try for some days, some give up within hours.',
  remedy: 'Add a second exchange, if there is one that knows which recipients exist; else leave it.',
  bad: ['@ MX 10 mx.larkpost.example.'],
  good: ['@ MX 10 mx.larkpost.example.\n@ MX 20 mx2.larkpost.example.', '@ MX 0 .\n@ TXT "v=spf1 -all"'],
  visit: onMx(SINGLE, (set, cx) => {
    const [record] = set.records
    if (set.records.length > 1 || isNull(cx.zones, record) || cx.zones.tree.isWildcard(set.owner) || isPrivate(cx.zones, set.zone)) return
    // A host with addresses of its own, several of them, is more than one.
    if ((hostAddresses(cx.zones, cx.zones.target(record))?.records.filter((each) => cx.zones.type(each) === TYPE.A).length ?? 0) > 1) return
    cx.report({
      record,
      part: 1,
      message: `${cx.name(set.owner)} has one exchange, ${cx.name(cx.zones.target(record))}`,
      consequence: 'While it cannot be reached, mail waits with the senders.',
      fix: ['add a second exchange, or leave it so'],
    })
  }),
}

export const mxAllEqual: Rule = {
  code: 'mx/all-equal',
  severity: 'advice',
  source: 'RFC 5321 §5.1',
  title: 'several exchanges of one preference',
  why: 'Senders choose among equal ones at random: the load is shared, and none of them is the fallback.',
  remedy: 'If one is meant as fallback, give it a higher number.',
  bad: ['@ MX 10 mx.larkpost.example.\n@ MX 10 mx2.larkpost.example.'],
  good: ['@ MX 10 mx.larkpost.example.\n@ MX 20 mx2.larkpost.example.'],
  visit: onMx(SEVERAL, (set, cx) => {
    // Most sets have an order: told without making anything.
    if (preference(cx.zones, set.records[0]) !== preference(cx.zones, set.records[1])) return
    const hosts = exchanges(cx.zones, set)
    if (
      new Set(hosts.map((record) => cx.zones.target(record))).size < 2 ||
      hosts.some((record) => preference(cx.zones, record) !== preference(cx.zones, hosts[0]))
    )
      return
    cx.report({
      record: hosts[0],
      part: 0,
      message: `all ${hosts.length} exchanges of ${cx.name(set.owner)} have preference ${preference(cx.zones, hosts[0])}`,
      consequence: 'They share the load; none is tried first.',
      fix: ['give a fallback a higher number; else leave it so'],
    })
  }),
}

/** Labels of hosts that are set up for mail, at which people write what belongs to the domain. */
const MAIL_HOSTS = ['mail', 'mx', 'smtp']
const MAIL_FIRSTS = new Set(MAIL_HOSTS.map((label) => label.charCodeAt(0)))

export const mxImplicit: Rule = {
  code: 'mx/implicit',
  severity: 'advice',
  source: 'RFC 5321 §5.1',
  title: 'addresses at a zone’s top, and no MX',
  why: 'Without MX, mail goes to the host’s own address: to the web server, which refuses it, or takes it and loses it.',
  remedy: 'Write the exchanges; or MX 0 . where the domain takes no mail.',
  bad: ['@ A 192.0.2.10\nwww CNAME @'],
  good: ['@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.\nwww CNAME @', 'www A 192.0.2.10'],
  visit: {
    zone(zone, cx) {
      if (zone.complete === false || !cx.isAbout(zone.apex) || isReverse(zone)) return
      if (cx.zones.has(zone.apex, TYPE.MX) || cx.zones.has(zone.apex, TYPE.CNAME)) return
      const [address] = addressesAt(cx.zones, zone.apex, zone.index)
      if (address === undefined) return
      if (
        MAIL_HOSTS.some((label) => mxBelow(cx.zones, zone.apex, label) !== NONE) ||
        cx.sourcesOf(zone).some(({ brokenTypes }) => brokenTypes.includes(TYPE.MX))
      )
        return
      cx.report({
        record: address,
        message: `${zone.name} has addresses and no MX`,
        consequence: `Mail for the domain goes to ${cx.zones.rdataText(address)}.`,
        fix: [`${zone.name} MX 10 EXCHANGE.`, `or, if it takes no mail: ${zone.name} MX 0 .`],
      })
    },
  },
}

function mxBelow(zones: Zones, name: NameId, label: string): RecordId {
  const octets = Uint8Array.from(label, (sign) => sign.charCodeAt(0))
  const below = zones.tree.find(name, octets, 0, octets.length)
  return below === NONE ? NONE : (zones.records(below, TYPE.MX)[0] ?? NONE)
}

export const mxOnlyBelow: Rule = {
  code: 'mx/only-below',
  severity: 'warning',
  source: 'practice',
  title: 'MX at the name of the mail host, and none at the domain whose mail it is meant for',
  why: 'MX is looked up at what stands behind the “@” of an address. An MX at mail.hollowmere.example is for addresses that end so; mail to hollowmere.example does not see it.',
  remedy: 'Write the MX set at the domain.',
  bad: ['mail MX 10 mail\nmail A 192.0.2.25'],
  good: ['mail MX 10 mail\n@ MX 10 mail\nmail A 192.0.2.25', 'news MX 10 mx.larkpost.example.'],
  visit: onMx(ANY, (set, cx) => {
    const { zones } = cx
    if (
      !MAIL_FIRSTS.has(zones.tree.labelOctet(set.owner, 0)) ||
      set.owner === set.zone.apex ||
      !MAIL_HOSTS.includes(zones.tree.labelText(set.owner)) ||
      exchanges(zones, set).length === 0
    )
      return
    const domain = zones.tree.parent(set.owner)
    if (
      set.zone.complete === false ||
      zones.has(domain, TYPE.MX) ||
      zones.has(domain, TYPE.CNAME) ||
      cx.sourcesOf(set.zone).some(({ brokenTypes }) => brokenTypes.includes(TYPE.MX))
    )
      return
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `${cx.name(set.owner)} has MX, and ${cx.name(domain)} has none`,
      consequence: `Mail to addresses that end in @${cx.name(domain).replace(/\.$/, '')} does not get there by it.`,
      fix: set.records.map((record) => `${cx.name(domain)} ${cx.record(record)}`),
    })
  }),
}

export const mxTargetFollowsTop: Rule = {
  code: 'mx/target-follows-apex',
  severity: 'advice',
  source: 'practice',
  title: 'the exchange is the top of a zone',
  why: 'The top’s address is usually the web site’s. When the site moves, the mail of everybody whose exchange points there moves with it, and nobody thinks of that.',
  remedy: 'Give the mail host a name of its own, and point MX there.',
  bad: ['@ MX 10 @\n@ A 192.0.2.10\nwww CNAME @'],
  good: ['@ MX 10 mail\n@ A 192.0.2.10\nmail A 192.0.2.25\nwww CNAME @'],
  visit: onMx(TOP_TARGET, (set, cx) => {
    for (const record of set.records) {
      const target = cx.zones.target(record)
      const zone = target === ROOT ? undefined : cx.zones.zoneOf(target)
      if (zone?.apex !== target || addressesAt(cx.zones, target).length === 0) continue
      cx.report({
        record,
        part: 1,
        message: `the exchange of ${cx.name(set.owner)} is ${cx.name(target)}, the top of its zone`,
        consequence: 'Whoever moves the web site moves the mail.',
        fix: addressesAt(cx.zones, target)
          .map((each) => `mail.${cx.name(target)} ${cx.record(each)}`)
          .concat(`${cx.name(set.owner)} ${cx.withTarget(record, `mail.${cx.name(target)}`)}`),
      })
    }
  }),
}

export const mxV6Only: Rule = {
  code: 'mx/v6-only',
  severity: 'advice',
  source: 'practice',
  title: 'exchanges that are reachable over IPv6 only',
  why: 'Many senders have IPv4 alone: their mail waits, and then comes back.',
  remedy: 'Give at least one exchange an IPv4 address.',
  bad: ['@ MX 10 mail\nmail AAAA 2001:db8::25'],
  good: ['@ MX 10 mail\nmail AAAA 2001:db8::25\nmail A 192.0.2.25', '@ MX 10 mail\n@ MX 20 mx.larkpost.example.\nmail AAAA 2001:db8::25'],
  visit: onMx(V6_TARGET, (set, cx) => {
    const hosts = exchanges(cx.zones, set).map((record) => hostAddresses(cx.zones, cx.zones.target(record))?.records ?? [])
    if (hosts.length === 0 || hosts.some((records) => records.length === 0 || records.some((record) => cx.zones.type(record) === TYPE.A))) return
    cx.report({
      record: set.records[0],
      part: 1,
      message: `every exchange of ${cx.name(set.owner)} has IPv6 addresses only`,
      consequence: 'Senders without IPv6 cannot deliver.',
      fix: [`${cx.name(cx.zones.target(set.records[0]))} A ADDRESS`],
    })
  }),
}

/** Where other records lead: service bindings, rewriting rules, SPF terms, report addresses, and tops that follow a name. */

import { locate, locateName, locateWire, MISSING } from '../../knowledge/answer.ts'
import { isDmarc } from '../../mail/dmarc/record.ts'
import { isSpf, readSpf } from '../../mail/spf/record.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { addressText } from '../../names/address.ts'
import { foldName, wireNameLength, wireToName } from '../../names/name.ts'
import { latin1Of, u16At } from '../../names/octets.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { joined, svcbPriority } from '../../records/views.ts'
import { EXAMPLE_HEAD } from '../example-head.ts'
import { addressesAt, hostAddresses, isPrivate, listed, named } from '../look.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { TextMemory } from '../text.ts'
import { LOST_TARGET, NAMES_DOMAIN, SCOPED } from '../traits.ts'

const onBoth = (visit: (set: SetView, cx: Context) => void): Rule['visit'] => ({ set: { [TYPE.SVCB]: visit, [TYPE.HTTPS]: visit } })

export const svcbAliasMode: Rule = {
  code: 'svcb/alias-mode',
  severity: 'error',
  source: 'RFC 9460 §2.4.1, §2.4.2',
  title: 'an alias (priority 0) of SVCB or HTTPS beside other records of the set, or to itself',
  why: 'Where one record is an alias, clients ignore the others; an alias of itself leads nowhere.',
  remedy: 'Keep either the alias or the records with a priority above 0.',
  bad: ['@ HTTPS 0 site.northlight.example.\n@ HTTPS 1 . alpn=h2', 'www HTTPS 0 www.hollowmere.example.\nwww A 192.0.2.10'],
  good: ['@ HTTPS 0 site.northlight.example.', '@ HTTPS 1 . alpn=h2\n@ HTTPS 2 site.northlight.example.'],
  visit: onBoth((set, cx) => {
    const alias = set.records.find((record) => svcbPriority(cx.zones.rdata(record)) === 0)
    if (alias === undefined) return
    const other = set.records.find((record) => svcbPriority(cx.zones.rdata(record)) !== 0)
    const self = cx.zones.target(alias) === set.owner
    if (other === undefined && !self) return
    cx.report({
      record: alias,
      part: self ? 1 : 0,
      message: self
        ? `${cx.name(set.owner)} is an alias of itself by ${typeText(set.type)}`
        : `${cx.name(set.owner)} has ${cx.record(alias)}, an alias, and ${cx.record(other!)} (${cx.where(other!, alias)})`,
      consequence: self ? 'It leads nowhere.' : 'Clients ignore all but the alias.',
      fix: [other === undefined ? `take out ${cx.name(set.owner)} ${cx.record(alias)}` : `keep only: ${cx.name(set.owner)} ${cx.record(alias)}`],
    })
  }),
}

/** Keys of service parameters (RFC 9460 §14.3.2). */
const ALPN = 1
const NO_DEFAULT_ALPN = 2

export const svcbNoDefaultAlpn: Rule = {
  code: 'svcb/no-default-alpn',
  severity: 'error',
  source: 'RFC 9460 §7.1.1',
  title: 'no-default-alpn without alpn',
  why: 'It takes the usual protocol away, and without alpn there is no other: no client can connect. Some servers refuse the whole file.',
  remedy: 'State the protocols by alpn, or take no-default-alpn out.',
  bad: ['www HTTPS 1 . no-default-alpn\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2 no-default-alpn\nwww A 192.0.2.10'],
  visit: onBoth((set, cx) => {
    for (const record of set.records) {
      const data = cx.zones.rdata(record)
      const keys: number[] = []
      for (let at = 2 + wireNameLength(data, 2); at + 4 <= data.length; at += 4 + u16At(data, at + 2)) keys.push(u16At(data, at))
      if (!keys.includes(NO_DEFAULT_ALPN) || keys.includes(ALPN)) continue
      cx.report({
        record,
        part: 2,
        message: `${typeText(set.type)} at ${cx.name(set.owner)} has no-default-alpn, and no alpn`,
        consequence: 'No protocol is left to connect by; some servers refuse the file.',
        fix: ['write alpn=PROTOCOL beside it, or take no-default-alpn out'],
      })
    }
  }),
}

function missing(cx: Context, record: RecordId, part: number): void {
  const target = cx.zones.target(record)
  cx.report({
    record,
    part,
    message: `${typeText(cx.zones.type(record))} at ${cx.name(cx.zones.owner(record))} points to ${cx.name(target)}, which does not exist in ${cx.zones.zoneOf(target)!.name}`,
    consequence: 'Whoever follows it is told that the name does not exist.',
    fix: ['write what the target is to have, or point at the name that is meant'],
  })
}

export const svcbTargetMissing: Rule = {
  code: 'svcb/target-missing',
  severity: 'warning',
  source: 'RFC 9460 §2.5',
  title: 'the target of SVCB or HTTPS is known and does not exist',
  why: 'Clients that know these records connect to the target, and find none; those that do not know them connect all the same. So the fault looks like one of some browsers.',
  remedy: 'Write the target’s addresses, or “.” where the owner itself is meant.',
  bad: ['www HTTPS 1 edge alpn=h2\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2\nwww A 192.0.2.10', 'www HTTPS 0 edge\nedge A 192.0.2.10'],
  visit: onBoth((set, cx) => {
    for (const record of set.records) {
      const target = cx.zones.target(record)
      if (target !== ROOT && locate(cx.zones, target) === MISSING) missing(cx, record, 1)
    }
  }),
}

export const naptrReplacementMissing: Rule = {
  code: 'naptr/replacement-missing',
  severity: 'error',
  source: 'RFC 3403 §4.1',
  title: 'the replacement of NAPTR is known and does not exist',
  why: 'The next step of the rule asks for a name that does not exist: the call or service fails there.',
  remedy: 'Write the SRV or address records of the replacement.',
  bad: ['@ NAPTR 10 50 "s" "SIP+D2U" "" _sip._udp'],
  good: [
    '@ NAPTR 10 50 "s" "SIP+D2U" "" _sip._udp\n_sip._udp SRV 0 0 5060 phone\nphone A 192.0.2.50',
    '@ NAPTR 10 50 "u" "E2U+sip" "!^.*$!sip:info@hollowmere.example!" .',
  ],
  visit: {
    set: {
      [TYPE.NAPTR](set, cx) {
        for (const record of set.records) {
          const target = cx.zones.target(record)
          if (target !== ROOT && locate(cx.zones, target) === MISSING) missing(cx, record, 5)
        }
      },
    },
  },
}

/** The addresses that a service binding hints at, by parameter: 4 (IPv4) and 6 (IPv6). */
function hintsOf(data: Uint8Array, from: number): Map<number, Uint8Array[]> {
  const found = new Map<number, Uint8Array[]>()
  for (let at = from; at + 4 <= data.length; at += 4 + u16At(data, at + 2)) {
    const key = u16At(data, at)
    const size = key === 4 ? 4 : key === 6 ? 16 : 0
    if (size === 0) continue
    const list: Uint8Array[] = []
    for (let here = at + 4; here < at + 4 + u16At(data, at + 2); here += size) list.push(data.subarray(here, here + size))
    found.set(key, list)
  }
  return found
}

export const svcbHintsDiffer: Rule = {
  code: 'svcb/hints-differ',
  severity: 'warning',
  source: 'RFC 9460 §7.3',
  title: 'address hints of SVCB or HTTPS that are not the target’s addresses',
  why: 'Clients may connect to the hints before they know the addresses. After a move that forgets them, some visitors go to the old host.',
  remedy: 'Write the target’s addresses as hints, or none.',
  bad: ['www HTTPS 1 . ipv4hint=192.0.2.66\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . ipv4hint=192.0.2.10\nwww A 192.0.2.10\nwww A 192.0.2.11', 'www HTTPS 1 site.northlight.example. ipv4hint=192.0.2.66'],
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
        consequence: 'Some clients connect to the hinted address.',
        fix: ['write the target’s addresses as hints, or leave the hints away'],
      })
    }
  }),
}

export const keptTargetMissing: Rule = {
  code: 'zones/target-missing',
  severity: 'warning',
  source: 'RFC 7208 §4.6.4; RFC 1912 §2.1',
  title: 'a name that SPF or PTR speaks of is known and does not exist',
  why: 'An a: or mx: term lets nobody send, and three of them break the record; a PTR leads nowhere.',
  remedy: 'Write the name that is meant, or take the term out.',
  silences: ['ptr/forward-missing'],
  bad: [
    '@ TXT "v=spf1 a:out.hollowmere.example -all"',
    { zones: { 'hollowmere.example': '@ TXT "v=spf1 mx:mail.lakepass.example -all"', 'lakepass.example': 'www A 192.0.2.10' } },
    { zones: { 'hollowmere.example': 'www A 192.0.2.10', '2.0.192.in-addr.arpa': '10 PTR web.hollowmere.example.' } },
  ],
  good: ['@ TXT "v=spf1 a:out.hollowmere.example include:_spf.larkpost.example -all"\nout A 192.0.2.25', '@ TXT "v=spf1 a:%{i}._spf.hollowmere.example -all"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: NAMES_DOMAIN,
        visit(set, cx) {
          for (const record of set.records) {
            const text = joined(cx.zones.rdata(record))
            if (!isSpf(text)) continue
            for (const { name, domain: value = '', text: term } of readSpf(text).record.mechanisms) {
              if ((name !== 'a' && name !== 'mx') || value === '' || value.includes('%')) continue
              const target = value.endsWith('.') ? value : `${value}.`
              if (locateName(cx.zones, target) !== MISSING) continue
              cx.report({
                record,
                part: 0,
                message: `${term} in the SPF record of ${cx.name(set.owner)}: ${target} does not exist in a kept zone`,
                consequence: 'The term lets nobody send.',
                fix: [`write ${target}, or take ${term} out`],
              })
            }
          }
        },
      },
      [TYPE.PTR]: {
        when: LOST_TARGET,
        visit(set, cx) {
          for (const record of set.records) if (locate(cx.zones, cx.zones.target(record)) === MISSING) missing(cx, record, 0)
        },
      },
    },
  },
}

export const keptFollowDrift: Rule = {
  code: 'zones/follow-drift',
  severity: 'warning',
  source: 'practice',
  title: 'a top that follows a name has other addresses than that name',
  why: 'An alias cannot stand at a zone’s top, so the addresses of the name were written there. It has others by now, and the top still leads to the old ones.',
  remedy: 'Write the name’s present addresses at the top.',
  bad: [
    {
      zones: { 'hollowmere.example': '@ A 192.0.2.10\nwww CNAME @\nsite A 192.0.2.11' },
      around: { follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }] },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': '@ A 192.0.2.11\nwww CNAME @\nsite A 192.0.2.11' },
      around: { follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }] },
    },
  ],
  visit: {
    finish(cx) {
      const { zones } = cx
      for (const { owner, target } of cx.around.follows ?? []) {
        const [top, name] = [owner, target].map((each) => named(zones, each.endsWith('.') ? each : `${each}.`))
        const zone = top === NONE ? undefined : zones.zoneOf(top)
        const host = name === NONE ? undefined : hostAddresses(zones, name)
        if (!zone || !host || host.records.length === 0 || !cx.isAbout(top)) continue
        const have = addressesAt(zones, top)
        const texts = (records: readonly RecordId[]): string[] => records.map((record) => cx.record(record)).sort()
        if (texts(have).join() === texts(host.records).join()) continue
        cx.report({
          record: have[0],
          zone,
          owner: top,
          message: `${cx.name(top)} follows ${cx.name(name)}, which has ${listed(texts(host.records))}; the top has ${listed(texts(have)) || 'none'}`,
          consequence: 'The top leads to where the name no longer is.',
          fix: texts(host.records).map((text) => `${cx.name(top)} ${text}`),
        })
      }
    },
  },
}

export const keptAllowanceUnused: Rule = {
  code: 'config/exception-unused',
  severity: 'advice',
  source: 'practice',
  title: 'an allowance that matches no finding',
  why: 'What it accepted is gone. Left there, it would hide the same fault when it comes back.',
  remedy: 'Take it out of bramblefront.yaml.',
  bad: [
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.10' },
      around: { allowances: [{ rule: 'mx/single', at: 'hollowmere.example.', reason: 'one is enough' }] },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': '@ MX 10 mx.larkpost.example.' },
      around: { allowances: [{ rule: 'mx/single', at: 'hollowmere.example.', reason: 'one is enough' }] },
    },
  ],
  visit: {
    allowance({ rule, at, reason, place }, matched, cx) {
      if (matched > 0) return
      const owner = at === undefined ? NONE : named(cx.zones, at)
      cx.report({
        place: place ?? { file: '', line: 1, column: 1, text: '', length: 0 },
        owner: owner === NONE ? undefined : owner,
        message: `the allowance for ${rule}${at === undefined ? '' : ` at ${at}`} (“${reason}”) matches nothing`,
        consequence: 'It would hide the fault when it comes back.',
        fix: ['take it out of bramblefront.yaml'],
      })
    },
  },
}

/** Why a domain takes no mail, in words; undefined where it does, or nothing is known. */
function takesNoMail(zones: Zones, node: NameId): string | undefined {
  if (node === MISSING) return 'does not exist'
  if (node < 0 || zones.hasCname(node) || zones.cut(node) !== NONE) return undefined
  const exchanges = zones.records(node, TYPE.MX)
  if (exchanges.length > 0) return exchanges.every((record) => zones.target(record) === ROOT) ? 'takes no mail (MX 0 .)' : undefined
  if (zones.zoneOf(node)?.complete === false) return undefined
  return addressesAt(zones, node).length > 0 ? undefined : 'has neither MX nor an address'
}

export const mailReportBoxClosed: Rule = {
  code: 'mail/report-box-closed',
  severity: 'error',
  source: 'RFC 7489 §6.2, RFC 7505',
  title: 'a mailbox for reports at a known domain that takes no mail',
  why: 'Reports come back to their senders, who give up after a while: nobody learns who sends in the domain’s name, or who asks for certificates.',
  remedy: 'Name a mailbox at a domain that takes mail.',
  bad: [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@hollowmere.example"\n@ MX 0 .\n@ TXT "v=spf1 -all"',
    { zones: { 'hollowmere.example': '@ CAA 0 iodef "mailto:ca@lakepass.example"', 'lakepass.example': '@ MX 0 .\n@ TXT "v=spf1 -all"' } },
  ],
  good: [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example!10m,mailto:d@hollowmere.example"\n@ MX 10 mx.larkpost.example.',
    '@ CAA 0 iodef "https://hollowmere.example/report"',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          const label = cx.zones.tree.labelText(set.owner)
          if (label !== '_dmarc' && label !== '_smtp') return
          for (const record of set.records) {
            const { at, boxes } = REPORTS.of(cx.zones, record)
            if (at === label) for (const [address, domain] of boxes) say(cx, record, 0, domain, address)
          }
        },
      },
      [TYPE.CAA](set, cx) {
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          const value = latin1Of(data, 2 + data[1], data.length)
          for (const [address, domain] of mailtos(value)) say(cx, record, 2, domain, address)
        }
      },
    },
  },
}

export const soaMailboxClosed: Rule = {
  code: 'soa/mailbox-closed',
  severity: 'advice',
  source: 'RFC 1035 §3.3.13, RFC 2142 §7',
  title: 'the mailbox in the SOA record at a known domain that takes no mail',
  why: 'It is the mailbox of whoever looks after the zone. Where it takes no mail, nobody can tell them that something is wrong with it.',
  remedy: 'Name a mailbox at a domain that takes mail.',
  bad: [{ whole: true, zones: { 'hollowmere.example': EXAMPLE_HEAD.replace('hostmaster.upland-dns.example.', 'hostmaster') } }],
  good: [
    { whole: true, zones: { 'hollowmere.example': EXAMPLE_HEAD } },
    { whole: true, zones: { 'ferries.internal': EXAMPLE_HEAD.replace('hostmaster.upland-dns.example.', 'hostmaster') } },
  ],
  visit: {
    set: {
      [TYPE.SOA](set, cx) {
        if (set.owner !== set.zone.apex || isPrivate(cx.zones, set.zone)) return
        const data = cx.zones.rdata(set.records[0])
        const mailbox = wireNameLength(data, 0)
        const domain = mailbox + data[mailbox] + 1
        const isName = data[mailbox] !== 0 && !data.subarray(mailbox, domain).includes(0x40)
        const because = isName ? takesNoMail(cx.zones, locateWire(cx.zones, data, domain)) : undefined
        if (!because) return
        cx.report({
          record: set.records[0],
          part: 1,
          message: `the SOA record’s mailbox ${wireToName(data, mailbox)}: ${wireToName(data, domain)} ${because}`,
          consequence: 'Whoever sees that something is wrong with the zone cannot say so.',
          fix: ['name a mailbox at a domain that takes mail'],
        })
      },
    },
  },
}

/** The addresses behind `mailto:` in a text, and their domains. */
function mailtos(text: string): [string, string][] {
  return [...text.matchAll(/mailto:([^@,;\s]+)@([a-z0-9._-]+)/gi)].map(([, local, domain]) => [`${local}@${domain}`, `${foldName(domain).replace(/\.$/, '')}.`])
}

/** Below which label a text asks for reports, and the mailboxes that it names. */
const REPORTS = new TextMemory((text) => ({ at: isDmarc(text) ? '_dmarc' : /^v=TLSRPTv1/i.test(text) ? '_smtp' : undefined, boxes: mailtos(text) }))

function say(cx: Context, record: RecordId, part: number, domain: string, what: string): void {
  const known = cx.memory(() => new Map<string, string | undefined>())
  if (!known.has(domain)) known.set(domain, takesNoMail(cx.zones, locateName(cx.zones, domain)))
  const because = known.get(domain)
  if (!because) return
  cx.report({
    record,
    part,
    message: `${what}: ${domain} ${because}`,
    consequence: 'Whatever is sent there comes back.',
    fix: ['name a mailbox at a domain that takes mail'],
  })
}

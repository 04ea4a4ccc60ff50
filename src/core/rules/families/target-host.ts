/** What the target of a mail exchange or a service must be: a host with addresses of its own, no alias. */
import { aliasOf, locate, MISSING } from '../../knowledge/answer.ts'
import { nameToWire, wireToName } from '../../names/name.ts'
import { ROOT } from '../../names/tree.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { ALIAS_TARGET, LOST_TARGET } from '../traits.ts'

interface Shape {
  type: number
  code: string
  source: string
  bad: Rule['bad']
  good: Rule['good']
}

function targetIsAlias({ type, code, severity = 'error', source, bad, good, consequence, silences }: Shape & Partial<Rule> & { consequence: string }): Rule {
  const mnemonic = typeText(type)
  const index = rowOf(type)!.target!
  return {
    code,
    severity,
    silences,
    source,
    title: `the target of ${mnemonic} is an alias (CNAME, or below a DNAME)`,
    why: consequence,
    remedy: 'Point at the name that has the addresses, or give the target addresses instead of the alias.',
    bad,
    good,
    visit: {
      set: {
        [type]: {
          when: ALIAS_TARGET,
          visit(set: SetView, cx: Context) {
            for (const record of set.records) {
              const target = cx.zones.target(record)
              const alias = target === ROOT ? undefined : aliasOf(cx.zones, nameToWire(cx.name(target)) as Uint8Array)
              if (alias === undefined || alias === 'too-long') continue
              cx.report({
                record,
                part: index,
                message: `${mnemonic} at ${cx.name(set.owner)} points to ${cx.name(target)}, which is an alias: ${cx.name(alias.node)} ${cx.record(alias.record)} (${cx.where(alias.record, record)})`,
                consequence,
                fix: [`${cx.name(set.owner)} ${cx.withTarget(record, wireToName(alias.to))}`],
              })
            }
          },
        },
      },
    },
  }
}

export const mxTargetIsAlias = targetIsAlias({
  type: TYPE.MX,
  code: 'mx/target-is-alias',
  source: 'RFC 2181 §10.3, RFC 5321 §5.1',
  consequence:
    'Some senders refuse to deliver to an exchange that is an alias; others deliver, but cannot tell that they themselves are the exchange, and mail goes in circles.',
  bad: [
    '@ MX 10 mail\nmail CNAME host\nhost A 192.0.2.25',
    { zones: { 'hollowmere.example': '@ MX 10 mx.lakepass.example.', 'lakepass.example': 'mx CNAME host\nhost A 192.0.2.25' } },
    '@ MX 10 mail\n* CNAME host\nhost A 192.0.2.25',
    '@ MX 10 mail.old\nold DNAME new\nmail.new A 192.0.2.25',
  ],
  good: ['@ MX 10 mail\nmail A 192.0.2.25\nwww CNAME mail'],
})

export const srvTargetIsAlias = targetIsAlias({
  type: TYPE.SRV,
  code: 'srv/target-is-alias',
  source: 'RFC 2782',
  consequence: 'The standard forbids it, and clients differ: some follow the alias, some check the certificate against the wrong name, some give up.',
  bad: ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat CNAME host\nhost A 192.0.2.30', '_xmpp-client._tcp SRV 0 0 5222 chat.old\nold DNAME larkpost.example.'],
  good: ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30\ntalk CNAME chat'],
})

export const nsTargetIsAlias = targetIsAlias({
  type: TYPE.NS,
  code: 'ns/target-is-alias',
  source: 'RFC 2181 §10.3',
  consequence: 'Resolvers that ask for the server’s address get an alias and stop there: for them the server does not exist.',
  bad: [
    'isle NS dns\nisle NS ns2.upland-dns.example.\ndns CNAME host\nhost A 192.0.2.53',
    'isle NS dns.old\nisle NS ns2.upland-dns.example.\nold DNAME new\ndns.new A 192.0.2.53',
  ],
  good: ['isle NS dns\nisle NS ns2.upland-dns.example.\ndns A 192.0.2.53\nwww CNAME dns'],
})

export const ptrTargetIsAlias = targetIsAlias({
  type: TYPE.PTR,
  code: 'ptr/target-is-alias',
  severity: 'warning',
  source: 'RFC 2181 §10.2, RFC 1912 §2.4',
  consequence: 'Receivers that compare the reverse name with the host’s own find another name, and count it against the mail.',
  silences: ['ptr/forward-missing'],
  bad: [{ zones: { 'hollowmere.example': 'www CNAME host\nhost A 192.0.2.25', '2.0.192.in-addr.arpa': '25 PTR www.hollowmere.example.' } }],
  good: [{ zones: { 'hollowmere.example': 'www CNAME host\nhost A 192.0.2.25', '2.0.192.in-addr.arpa': '25 PTR host.hollowmere.example.' } }],
})

function targetWithoutAddress({ type, code, source, bad, good, consequence }: Shape & { consequence: string }): Rule {
  const mnemonic = typeText(type)
  const index = rowOf(type)!.target!
  return {
    code,
    severity: 'error',
    source,
    title: `the target of ${mnemonic} lies in a kept zone and has no address`,
    why: consequence,
    remedy: 'Write the A or AAAA record of the target, or point at the host that is meant. A target in another domain ends with a dot.',
    bad,
    good,
    visit: {
      set: {
        [type]: {
          when: LOST_TARGET,
          visit(set: SetView, cx: Context) {
            for (const record of set.records) {
              const target = cx.zones.target(record)
              if (target === ROOT) continue
              const node = locate(cx.zones, target)
              if (node !== MISSING && (node < 0 || cx.zones.hasCname(node) || cx.zones.has(node, TYPE.A) || cx.zones.has(node, TYPE.AAAA))) continue
              if (node >= 0 && cx.zones.zoneOf(node)?.complete === false) continue
              cx.report({
                record,
                part: index,
                message: `${mnemonic} at ${cx.name(set.owner)} points to ${cx.name(target)}, which ${node === MISSING ? 'does not exist' : 'has no address'} in ${cx.zones.zoneOf(target)!.name}`,
                consequence,
                fix: [`${cx.name(target)} A ADDRESS`],
              })
            }
          },
        },
      },
    },
  }
}

export const mxTargetWithoutAddress = targetWithoutAddress({
  type: TYPE.MX,
  code: 'mx/target-without-address',
  source: 'RFC 5321 §5.1',
  consequence: 'Senders cannot reach this exchange. If it is the only one, mail waits in their queues and then comes back.',
  bad: [
    '@ MX 10 mail',
    '@ MX 10 mail\nmail TXT "a host without an address"',
    { zones: { 'hollowmere.example': '@ MX 10 mx.lakepass.example.', 'lakepass.example': 'mail A 192.0.2.25' } },
  ],
  good: [
    '@ MX 10 mail\nmail AAAA 2001:db8::25',
    '@ MX 10 mx.larkpost.example.',
    '@ MX 0 .\n@ TXT "v=spf1 -all"',
    '@ MX 10 any.lake\n*.lake A 192.0.2.25',
    '@ MX 10 mx.isle\nisle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53',
  ],
})

export const srvTargetWithoutAddress = targetWithoutAddress({
  type: TYPE.SRV,
  code: 'srv/target-without-address',
  source: 'RFC 2782',
  consequence: 'Clients find the service and cannot reach its host.',
  bad: ['_xmpp-client._tcp SRV 0 0 5222 chat'],
  good: ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30', '_sip._udp SRV 0 0 0 .'],
})

export const nsTargetWithoutAddress = targetWithoutAddress({
  type: TYPE.NS,
  code: 'ns/target-without-address',
  source: 'RFC 1912 §2.8',
  consequence: 'Nobody can reach this name server.',
  bad: ['isle NS dns\nisle NS ns2.upland-dns.example.'],
  good: ['isle NS dns\nisle NS ns2.upland-dns.example.\ndns AAAA 2001:db8::53'],
})

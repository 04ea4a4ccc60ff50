/** Services: their names, ports, shares, and whether owner and target belong together. */
import { closest, distance } from 'fastest-levenshtein'
import type { RecordId, Zones } from '../../model/zones.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { srv } from '../../records/views.ts'
import { hostAddresses } from '../look.ts'
import type { Context, Rule, SetView, SetVisit } from '../rule.ts'
import { portsOf, serviceNames } from '../services.ts'
import { ODD_SERVICE, SERVED_ELSEWHERE, SEVERAL } from '../traits.ts'

const priority = (zones: Zones, record: RecordId): number => srv(zones.rdata(record)).priority
const weight = (zones: Zones, record: RecordId): number => srv(zones.rdata(record)).weight
const port = (zones: Zones, record: RecordId): number => srv(zones.rdata(record)).port
const isNone = (zones: Zones, record: RecordId): boolean => zones.target(record) === ROOT

const onSrv = (when: number, visit: SetVisit): Rule['visit'] => ({ set: { [TYPE.SRV]: { when, visit } } })

/** The service of an owner `_service._protocol.name`, without its underscore; undefined where the owner is not made so. One text for one label: owners are many, services few. */
function serviceOf(set: SetView, cx: Context): string | undefined {
  const { tree } = cx.zones
  if (tree.labelOctet(set.owner, 0) !== 0x5f || tree.labelOctet(tree.parent(set.owner), 0) !== 0x5f) return undefined
  return tree.labelText(set.owner).slice(1)
}

export const srvServiceName: Rule = {
  code: 'srv/service-name',
  severity: 'warning',
  source: 'RFC 6335 §5.1',
  title: 'a service name that is not made as service names are',
  why: 'Service names have letters, digits and single inner hyphens, at least one letter, and at most 15 signs. Clients’ libraries refuse others. Some longer ones are in wide use.',
  remedy: 'Use the service’s registered name, or a lawful one of your own.',
  silences: ['srv/service-unregistered'],
  bad: [
    '_5222._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30',
    '_ferry--kiosk._tcp SRV 0 0 8443 chat\nchat A 192.0.2.30',
    '_ferrykioskscreens._tcp SRV 0 0 8443 chat\nchat A 192.0.2.30',
  ],
  good: ['_ferrykiosk._tcp SRV 0 0 8443 chat\n_sipfederationtls._tcp SRV 0 0 5061 chat\nchat A 192.0.2.30'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    if (service === undefined || portsOf(service)) return
    const lawful = /^[a-z0-9]+(?:-[a-z0-9]+)*$/.test(service) && /[a-z]/.test(service)
    if (lawful && service.length <= 15) return
    cx.report({
      record: set.records[0],
      part: 'owner',
      severity: lawful ? 'advice' : 'warning',
      message: lawful
        ? `the service name ${service} has ${service.length} signs; at most 15 may be registered`
        : `${service} is no service name: letters, digits and single inner hyphens, at least one letter`,
      consequence: 'Some clients refuse to look it up.',
      fix: ['use the registered name of the service'],
    })
  }),
}

export const srvServiceUnregistered: Rule = {
  code: 'srv/service-unregistered',
  severity: 'advice',
  source: 'RFC 2782, RFC 6335',
  title: 'a service that is not among the usual registered ones',
  why: 'A service of one’s own is lawful. But where a registered one was meant, a misspelling goes unnoticed: clients ask for the right name and find nothing.',
  remedy: 'Compare with the client’s documentation.',
  bad: ['_imap4s._tcp SRV 0 0 993 mail\nmail A 192.0.2.25', '_ferrykiosk._tcp SRV 0 0 8443 kiosk\nkiosk A 192.0.2.40'],
  good: ['_imaps._tcp SRV 0 0 993 mail\nmail A 192.0.2.25'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    if (service === undefined || portsOf(service)) return
    const near = closest(service, serviceNames())
    const meant = distance(near, service) <= Math.max(1, Math.floor(service.length / 4)) ? near : undefined
    const protocol = cx.zones.tree.labelText(cx.zones.tree.parent(set.owner))
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `_${service} is not among the usual registered services${meant ? `; is _${meant} meant?` : ''}`,
      consequence: meant ? `Clients of ${meant} do not look here.` : 'Only clients that know this name find it.',
      fix: meant
        ? set.records.map((record) => `_${meant}.${protocol}.${cx.name(cx.zones.tree.parent(cx.zones.tree.parent(set.owner)))} ${cx.record(record)}`)
        : ['leave it if the service is your own'],
    })
  }),
}

export const srvNoneWithOthers: Rule = {
  code: 'srv/none-with-others',
  severity: 'warning',
  source: 'RFC 2782',
  title: 'a target “.” (not offered) beside other targets',
  why: '“.” says that the service is not offered at all; the other record says where it is. Clients differ in which they believe.',
  remedy: 'Keep one of the two statements.',
  bad: ['_xmpp-client._tcp SRV 0 0 0 .\n_xmpp-client._tcp SRV 5 0 5222 chat\nchat A 192.0.2.30'],
  good: ['_xmpp-client._tcp SRV 0 0 0 .'],
  visit: onSrv(SEVERAL, (set, cx) => {
    const none = set.records.find((record) => isNone(cx.zones, record))
    const other = set.records.find((record) => !isNone(cx.zones, record))
    if (none === undefined || other === undefined) return
    cx.report({
      record: none,
      part: 3,
      message: `${cx.name(set.owner)} says both that the service is not offered, and ${cx.record(other)} (${cx.where(other, none)})`,
      consequence: 'Some clients find the service, others are told that there is none.',
      fix: [`take out ${cx.name(set.owner)} ${cx.record(none)}`, `or keep it alone`],
    })
  }),
}

export const srvPortZero: Rule = {
  code: 'srv/port-zero',
  severity: 'warning',
  source: 'RFC 2782',
  title: 'port 0 with a real target',
  why: 'Nothing listens on port 0. Clients give up, or try a port of their own choice.',
  remedy: 'Write the port that the service listens on.',
  silences: ['srv/port-unusual'],
  bad: ['_xmpp-client._tcp SRV 0 0 0 chat\nchat A 192.0.2.30'],
  good: ['_xmpp-client._tcp SRV 0 0 0 .', '_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    for (const record of set.records) {
      if (port(cx.zones, record) !== 0 || isNone(cx.zones, record)) continue
      const usual = portsOf(serviceOf(set, cx) ?? '')?.[0]
      cx.report({
        record,
        part: 2,
        message: `the port of ${cx.name(set.owner)} is 0, and the target ${cx.name(cx.zones.target(record))}`,
        consequence: 'Clients cannot connect.',
        fix: [`${cx.name(set.owner)} SRV ${priority(cx.zones, record)} ${weight(cx.zones, record)} ${usual ?? 'PORT'} ${cx.name(cx.zones.target(record))}`],
      })
    }
  }),
}

export const srvPortUnusual: Rule = {
  code: 'srv/port-unusual',
  severity: 'advice',
  source: 'RFC 6335',
  title: 'another port than the one that the service is registered with',
  why: 'That is what SRV is for, and lawful. But often it is a slip, or the port of another service; and firewalls know the registered one.',
  remedy: 'Compare with what the host listens on.',
  bad: ['_imaps._tcp SRV 0 1 143 mail\nmail A 192.0.2.25'],
  good: ['_imaps._tcp SRV 0 1 993 mail\nmail A 192.0.2.25', '_ferrykiosk._tcp SRV 0 0 8443 mail\nmail A 192.0.2.25'],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    const usual = service === undefined ? undefined : portsOf(service)
    if (!usual?.length) return
    for (const record of set.records) {
      const here = port(cx.zones, record)
      if (usual.includes(here) || isNone(cx.zones, record)) continue
      cx.report({
        record,
        part: 2,
        message: `_${service} is registered with port ${usual.join(' or ')}; here it is ${here}`,
        consequence: 'If nothing listens there, clients cannot connect.',
        fix: [`leave it if ${cx.name(cx.zones.target(record))} listens on ${here}`],
      })
    }
  }),
}

export const srvWeights: Rule = {
  code: 'srv/weights',
  severity: 'advice',
  source: 'RFC 2782',
  title: 'weights that share the load in another way than they look',
  why: 'Among targets of one priority, each gets its weight’s share. All zero: clients choose as they like, many always the first. Zero beside others: nearly nothing.',
  remedy: 'Give equal targets the same weight above zero.',
  bad: [
    '_xmpp-client._tcp SRV 5 0 5222 one\n_xmpp-client._tcp SRV 5 0 5222 two\none A 192.0.2.30\ntwo A 192.0.2.31',
    '_xmpp-client._tcp SRV 5 10 5222 one\n_xmpp-client._tcp SRV 5 0 5222 two\none A 192.0.2.30\ntwo A 192.0.2.31',
  ],
  good: ['_xmpp-client._tcp SRV 5 10 5222 one\n_xmpp-client._tcp SRV 5 30 5222 two\n_xmpp-client._tcp SRV 9 0 5222 two\none A 192.0.2.30\ntwo A 192.0.2.31'],
  visit: onSrv(SEVERAL, (set, cx) => {
    if (set.records.length < 2) return
    const byPriority = new Map<number, RecordId[]>()
    for (const record of set.records) {
      if (isNone(cx.zones, record)) continue
      const group = byPriority.get(priority(cx.zones, record))
      if (group) group.push(record)
      else byPriority.set(priority(cx.zones, record), [record])
    }
    for (const [level, group] of byPriority) {
      const zero = group.find((record) => weight(cx.zones, record) === 0)
      if (group.length < 2 || zero === undefined) continue
      const sum = group.reduce((total, record) => total + weight(cx.zones, record), 0)
      const shares = group.map((record) => `${cx.name(cx.zones.target(record))} ${sum === 0 ? '?' : Math.round((100 * weight(cx.zones, record)) / sum)} %`)
      cx.report({
        record: zero,
        part: 1,
        message: `at priority ${level} of ${cx.name(set.owner)}, ${sum === 0 ? 'all weights are 0' : `a weight is 0 beside others: ${shares.join(', ')}`}`,
        consequence: sum === 0 ? 'Clients choose as they like; many take the first each time.' : 'The target with weight 0 gets next to nothing.',
        fix: group.map(
          (record) => `${cx.name(set.owner)} SRV ${level} ${weight(cx.zones, record) || 1} ${port(cx.zones, record)} ${cx.name(cx.zones.target(record))}`,
        ),
      })
    }
  }),
}

export const srvTargetElsewhere: Rule = {
  code: 'srv/target-elsewhere',
  severity: 'advice',
  source: 'practice',
  title: 'a service below one host’s name whose target is another host',
  why: 'Clients ask for the service at what people type. Below a host’s name nobody looks, unless people type that host; then it is odd that another host serves it. Often the domain was meant as owner.',
  remedy: 'Put the owner at the domain that people type, or point at the host that is named.',
  bad: ['_xmpp-client._tcp.chat SRV 5 0 5222 talk\nchat A 192.0.2.30\ntalk A 192.0.2.31'],
  good: [
    '_xmpp-client._tcp SRV 5 0 5222 talk\ntalk A 192.0.2.31',
    '_xmpp-client._tcp.chat SRV 5 0 5222 chat\nchat A 192.0.2.30',
    '_xmpp-client._tcp.crew SRV 5 0 5222 talk\ntalk A 192.0.2.31',
  ],
  visit: onSrv(SERVED_ELSEWHERE, (set, cx) => {
    const { zones } = cx
    const { tree } = zones
    if (serviceOf(set, cx) === undefined) return
    const host: NameId = tree.parent(tree.parent(set.owner))
    if (host <= set.zone.apex || !tree.isAtOrBelow(host, set.zone.apex) || tree.isWildcard(host)) return
    // A name that takes mail is a domain that people type.
    if ((!zones.has(host, TYPE.A) && !zones.has(host, TYPE.AAAA)) || zones.has(host, TYPE.MX)) return
    const [record] = set.records
    if (set.records.some((each) => isNone(zones, each) || zones.target(each) === host || tree.isAtOrBelow(zones.target(each), host))) return
    if (set.records.some((each) => zones.zoneOf(zones.target(each)) !== set.zone || zones.target(each) === set.zone.apex)) return
    if (shareAddress(zones, host, zones.target(record))) return
    cx.report({
      record,
      part: 'owner',
      message: `the service is below the host ${cx.name(host)}, and its target is another host, ${cx.name(zones.target(record))}`,
      consequence: `Only who types ${cx.name(host)} finds it.`,
      fix: [`${tree.labelText(set.owner)}.${tree.labelText(tree.parent(set.owner))}.${set.zone.name} ${cx.record(record)}`, 'or leave it so'],
    })
  }),
}

function shareAddress(zones: Zones, one: NameId, other: NameId): boolean {
  const texts = new Set(hostAddresses(zones, one)?.records.map((record) => zones.rdataText(record)))
  return hostAddresses(zones, other)?.records.some((record) => texts.has(zones.rdataText(record))) ?? false
}

/** Services in the clear, and the ones with TLS that ought to stand beside them. */
const PAIRS = new Map([
  ['imap', 'imaps'],
  ['pop3', 'pop3s'],
  ['submission', 'submissions'],
])

export const srvMailClientPairs: Rule = {
  code: 'srv/mail-client-pairs',
  severity: 'advice',
  source: 'RFC 6186 §3, RFC 8314 §5',
  title: 'a service for mail programs without its counterpart that is encrypted from the start',
  why: 'Mail programs set themselves up by these records. Where only the older service is published, they take that one.',
  remedy: 'Publish the encrypted service; or deny it, with target “.”, where it is not offered.',
  bad: ['_imap._tcp SRV 0 1 143 mail\nmail A 192.0.2.25'],
  good: [
    '_imap._tcp SRV 0 1 143 mail\n_imaps._tcp SRV 0 1 993 mail\nmail A 192.0.2.25',
    '_submission._tcp SRV 0 1 587 mail\n_submissions._tcp SRV 0 0 0 .\nmail A 192.0.2.25',
  ],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    const secure = service === undefined ? undefined : PAIRS.get(service)
    if (!secure || set.records.some((record) => isNone(cx.zones, record)) || set.zone.complete === false) return
    const octets = Uint8Array.from(`_${secure}`, (sign) => sign.charCodeAt(0))
    const sibling = cx.zones.tree.find(cx.zones.tree.parent(set.owner), octets, 0, octets.length)
    if (sibling !== NONE && (cx.zones.has(sibling, TYPE.SRV) || cx.zones.hasCname(sibling))) return
    const domain = cx.name(cx.zones.tree.parent(cx.zones.tree.parent(set.owner)))
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `${domain} publishes _${service}, and says nothing of _${secure}`,
      consequence: 'Mail programs take the service that begins in the clear.',
      fix: [
        `_${secure}._tcp.${domain} SRV 0 1 ${portsOf(secure)![0]} ${cx.name(cx.zones.target(set.records[0]))}`,
        `or, where it is not offered: _${secure}._tcp.${domain} SRV 0 0 0 .`,
      ],
    })
  }),
}

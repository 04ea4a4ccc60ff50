/** Reverse names: whether they lead back, and are made as they must be. */
import { keptZoneOf, locate, locateName, MISSING } from '../../knowledge/answer.ts'
import { readSpf } from '../../mail/spf/record.ts'
import type { Zone, Zones } from '../../model/zones.ts'
import { addressText, parseAddress } from '../../names/address.ts'
import { nameToWire } from '../../names/name.ts'
import { type ReverseParts, reverseName, reverseParts } from '../../names/reverse.ts'
import { ROOT } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { addressesAt, hostAddresses, isReverse, listed, spfAt } from '../look.ts'
import type { Context, Example, Repair, Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'

const two = (forward: string, reverse: string): Example => ({ zones: { 'hollowmere.example': forward, '2.0.192.in-addr.arpa': reverse } })

export const ptrSeveral: Rule = {
  code: 'ptr/several',
  severity: 'advice',
  source: 'RFC 2181 §10.2',
  title: 'several PTR records at an address',
  why: 'It is lawful. But many programs look at one of them only, and which one is a matter of chance.',
  remedy: 'Keep the host’s own name.',
  bad: [two('a A 192.0.2.25\nb A 192.0.2.25', '25 PTR a.hollowmere.example.\n25 PTR b.hollowmere.example.')],
  good: [
    two('a A 192.0.2.25\nb A 192.0.2.26', '25 PTR a.hollowmere.example.\n26 PTR b.hollowmere.example.'),
    two('a A 192.0.2.25', 'b._dns-sd._udp PTR hollowmere.example.\nb._dns-sd._udp PTR lakepass.example.'),
  ],
  visit: {
    set: {
      [TYPE.PTR]: {
        when: SEVERAL,
        visit(set, cx) {
          if (!reverseParts(cx.name(set.owner))?.address) return
          if (new Set(set.records.map((record) => cx.zones.target(record))).size < 2) return
          cx.report({
            record: set.records[1],
            message: `${cx.name(set.owner)} has ${set.records.length} names: ${listed(set.records.map((record) => cx.name(cx.zones.target(record))))}`,
            consequence: 'Programs that look at one of them take any.',
            fix: [`keep the host’s own name, for instance: ${cx.name(set.owner)} ${cx.record(set.records[0])}`],
          })
        },
      },
    },
  },
}

export const ptrForwardMissing: Rule = {
  code: 'ptr/forward-missing',
  severity: 'warning',
  source: 'RFC 1912 §2.1',
  title: 'a reverse name whose host does not have the address',
  why: 'Receivers of mail ask for the name of the address, and for the address of that name. Where the two do not meet, they refuse the mail, or count it as suspect.',
  remedy: 'Write the address at the host, or point PTR at the host that has it.',
  bad: [two('mail A 192.0.2.26', '25 PTR mail.hollowmere.example.'), two('mail TXT "no address"', '25 PTR mail.hollowmere.example.')],
  good: [two('mail A 192.0.2.25', '25 PTR mail.hollowmere.example.'), two('www A 192.0.2.10', '25 PTR mx.larkpost.example.')],
  visit: {
    set: {
      [TYPE.PTR](set, cx) {
        const address = reverseParts(cx.name(set.owner))?.address
        if (!address) return
        for (const record of set.records) {
          const target = cx.zones.target(record)
          const node = locate(cx.zones, target)
          const host = node === MISSING ? { records: [] } : hostAddresses(cx.zones, target)
          if (!host || (node >= 0 && cx.zones.zoneOf(node)?.complete === false)) continue
          const key = rdataKey(address.length === 4 ? TYPE.A : TYPE.AAAA, address)
          if (host.records.some((each) => rdataKey(cx.zones.type(each), cx.zones.rdata(each)) === key)) continue
          const type = address.length === 4 ? 'A' : 'AAAA'
          cx.report({
            record,
            part: 0,
            message: `${addressText(address)} is named ${cx.name(target)}, which ${node === MISSING ? 'does not exist' : host.records.length === 0 ? 'has no address' : `has ${listed(host.records.map((each) => cx.zones.rdataText(each)))}`}`,
            consequence: 'Receivers do not believe the name.',
            fix: [`${cx.name(target)} ${type} ${addressText(address)}`],
          })
        }
      },
    },
  },
}

/** What is wrong with an owner of PTR below in-addr.arpa or ip6.arpa; undefined where nothing is. */
function ownerTrouble({ labels, whole, address }: ReverseParts, zone: Zone): { message: string; right?: string } | undefined {
  // Labels of RFC 2317, and names of service discovery (RFC 6763), are made otherwise.
  if (address || labels.some((label) => label.startsWith('_') || /[/-]/.test(label)) || labels.some((label) => label === '*')) return undefined
  const plain = whole === 4 ? /^\d{1,3}$/ : /^[0-9a-f]$/i
  const inZone = reverseParts(zone.name)?.labels ?? []
  if (whole === 4 && labels.length > 4) {
    const owner = labels.slice(0, labels.length - inZone.length)
    const written = owner.length === 4 ? parseAddress(owner.join('.')) : undefined
    if (written && [...written].slice(0, inZone.length).reverse().join('.') === inZone.join('.'))
      return { message: `the address ${owner.join('.')} is written in front of the zone’s own numbers, and forwards`, right: reverseName(written) }
    return { message: `it has ${labels.length} numbers in front of in-addr.arpa; an address has 4` }
  }
  if (labels.length > whole) return { message: `it has ${labels.length} labels in front of ip6.arpa; an address has 32` }
  if (labels.length === whole && !labels.every((label) => plain.test(label) && (whole === 32 || Number(label) < 256)))
    return { message: whole === 4 ? 'its labels are not four numbers from 0 to 255' : 'its labels are not 32 hexadecimal digits' }
  if (labels.length < whole && labels.length > inZone.length && labels.every((label) => plain.test(label)))
    return {
      message: `it has ${labels.length} ${whole === 4 ? 'numbers in front of in-addr.arpa; an address has 4' : 'digits in front of ip6.arpa; an address has 32'}`,
    }
  if (whole === 32 && labels.some((label) => /^[0-9a-f]{2,4}$/i.test(label)))
    return { message: 'its labels are groups; each hexadecimal digit is a label of its own' }
  return undefined
}

export const ptrOwnerForm: Rule = {
  code: 'ptr/owner-form',
  severity: 'error',
  source: 'RFC 1035 §3.5, RFC 3596 §2.5',
  title: 'an owner of PTR that is no address turned around',
  why: 'Programs ask for an address with its numbers (or hexadecimal digits) turned around, all of them, each a label. Under any other name nobody looks.',
  remedy: 'Write the numbers that the zone’s name does not have, the last one first.',
  bad: [
    two('mail A 192.0.2.25', '192.0.2.25 PTR mail.hollowmere.example.'),
    { zones: { '0.192.in-addr.arpa': '25 PTR mx.larkpost.example.' } },
    { zones: { '8.b.d.0.1.0.0.2.ip6.arpa': '0025 PTR mx.larkpost.example.' } },
    two('mail A 192.0.2.25', '256 PTR mx.larkpost.example.'),
  ],
  good: [
    two('mail A 192.0.2.25', '25 PTR mail.hollowmere.example.'),
    { zones: { '0.192.in-addr.arpa': '25.2 PTR mx.larkpost.example.' } },
    { zones: { '2.0.192.in-addr.arpa': '1.0/25 PTR mx.larkpost.example.\n129 CNAME 129.128-255.larkpost.example.' } },
    { zones: { '2.0.192.in-addr.arpa': 'b._dns-sd._udp PTR hollowmere.example.' } },
  ],
  visit: {
    set: {
      [TYPE.PTR](set, cx) {
        if (!isReverse(set.zone)) return
        const parts = reverseParts(cx.name(set.owner))
        const trouble = parts && ownerTrouble(parts, set.zone)
        if (!trouble) return
        cx.report({
          record: set.records[0],
          part: 'owner',
          message: `${cx.name(set.owner)} is no address turned around: ${trouble.message}`,
          consequence: 'Nobody asks for this name.',
          fix: trouble.right
            ? set.records.map((record) => `${trouble.right} ${cx.record(record)}`)
            : [`write the numbers that ${set.zone.name} lacks, the last one first`],
        })
      },
    },
  },
}

/** Why the kept reverse zones do not lead from an address to a host, or undefined where they do, or nothing is known. */
function reverseTrouble(cx: Context, address: Uint8Array, host?: number): { message: string; name: string; repair?: Repair } | undefined {
  const { zones } = cx
  const name = reverseName(address)
  let node = locateName(zones, name)
  // Reverse names below a company's own range are often aliases (RFC 2317).
  if (node >= 0 && zones.hasCname(node)) node = locate(zones, zones.target(zones.records(node, TYPE.CNAME)[0]))
  if (node !== MISSING && node < 0) return undefined
  const names = node === MISSING ? [] : zones.records(node, TYPE.PTR)
  if (names.length === 0) {
    if (node !== MISSING && zones.zoneOf(node)?.complete === false) return undefined
    return { message: `${addressText(address)} has no reverse name`, name, repair: host === undefined ? undefined : addPtr(zones, name, host) }
  }
  if (host === undefined || names.some((record) => zones.target(record) === host)) return undefined
  return { message: `the reverse name of ${addressText(address)} is ${listed(names.map((record) => zones.tree.text(zones.target(record))))}`, name }
}

function addPtr(zones: Zones, name: string, host: number): Repair | undefined {
  const zone = keptZoneOf(zones, name)
  const wire = nameToWire(zones.tree.text(host))
  return zone && typeof wire !== 'string' ? { zone, change: { owner: name, type: TYPE.PTR, data: [wire] } } : undefined
}

export const mxHostWithoutReverse: Rule = {
  code: 'mx/host-without-reverse',
  severity: 'warning',
  source: 'RFC 1912 §2.1',
  title: 'an exchange, or a listed sender, without the matching reverse name in a kept reverse zone',
  why: 'Hosts that take mail mostly send it, too. Receivers ask for the name of the sender’s address; without one, or with another, they refuse the mail or count it as suspect.',
  remedy: 'Write PTR at the address, to the host’s own name.',
  bad: [two('@ MX 10 mail\nmail A 192.0.2.25', '26 PTR mx.larkpost.example.'), two('@ TXT "v=spf1 ip4:192.0.2.25 -all"', '26 PTR mx.larkpost.example.')],
  good: [
    two('@ MX 10 mail\nmail A 192.0.2.25\n@ TXT "v=spf1 ip4:192.0.2.25 ip4:198.51.100.7 -all"', '25 PTR mail.hollowmere.example.'),
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
                message: `${cx.name(target)} takes mail, and ${trouble.message}`,
                consequence: 'Mail that it sends is refused, or counts as suspect.',
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
              message: `${text} may send for ${cx.name(set.owner)}, and ${trouble.message}`,
              consequence: 'Mail that it sends is refused, or counts as suspect.',
              fix: [`${trouble.name} PTR HOST.`],
            })
        }
      },
    },
  },
}

/** Delegations: name servers, their addresses, and what parent and child say of one another. */

import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { addressesAt, hostAddresses, isPrivate, listed, parentZone } from '../look.ts'
import type { Context, Example, Rule } from '../rule.ts'
import { COVERED } from '../traits.ts'

const PARENT_CHILD = (inParent: string, inChild: string): Example => ({
  whole: true,
  zones: {
    'hollowmere.example': `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n${inParent}`,
    'isle.hollowmere.example': `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n${inChild}`,
  },
})
const TWO = 'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.'
const TWO_BELOW = '@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.'

function sayGlueMissing(cx: Context, record: RecordId): void {
  const target = cx.zones.target(record)
  cx.report({
    record,
    part: 0,
    message: `${cx.name(cx.zones.owner(record))} is delegated to ${cx.name(target)}, which lies in it, and the address is not given here`,
    consequence: 'To find the server one would have to ask the server: nobody gets there.',
    fix: [`${cx.name(target)} A ADDRESS`],
  })
}

export const nsGlueMissing: Rule = {
  code: 'ns/glue-missing',
  severity: 'error',
  source: 'RFC 1034 §4.2.1, RFC 9471',
  title: 'a delegation to a server inside the delegated name, without that server’s address',
  why: 'The address would have to be asked of the very server that is looked for. Everything below the delegation is unreachable by that server.',
  remedy: 'Write the server’s addresses (A, AAAA) in this zone, too.',
  silences: ['ns/target-without-address'],
  bad: [
    'isle NS ns1.isle\nisle NS ns2.upland-dns.example.',
    PARENT_CHILD('isle NS ns1.isle\nisle NS ns2.upland-dns.example.', '@ NS ns1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53'),
  ],
  good: [
    'isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53',
    'isle NS ns1.cove\nisle NS ns2.upland-dns.example.\nns1.cove A 192.0.2.53',
  ],
  visit: {
    set: {
      [TYPE.NS](set, cx) {
        if (set.owner === set.zone.apex) return
        for (const record of set.records) if (lacksGlue(cx.zones, record, set.zone)) sayGlueMissing(cx, record)
      },
    },
  },
}

function lacksGlue(zones: Zones, record: RecordId, zone: Zone): boolean {
  const target = zones.target(record)
  return zones.tree.isAtOrBelow(target, zones.owner(record)) && addressesAt(zones, target, zone.index).length === 0
}

export const nsSameNetwork: Rule = {
  code: 'ns/same-network',
  severity: 'advice',
  source: 'RFC 2182 §3.1',
  title: 'all name servers in one network',
  why: 'Servers in one network go down together: by one cut cable, one power cut, one mistake in a router.',
  remedy: 'Have a secondary elsewhere.',
  bad: [
    'isle NS a\nisle NS b\na A 192.0.2.53\nb A 192.0.2.54',
    'isle NS a\nisle NS b\na A 192.0.2.53\na AAAA 2001:db8::53\nb A 192.0.2.54\nb AAAA 2001:db8::54',
  ],
  good: ['isle NS a\nisle NS b\na A 192.0.2.53\nb A 198.51.100.53', 'isle NS a\nisle NS ns2.upland-dns.example.\na A 192.0.2.53'],
  visit: {
    set: {
      [TYPE.NS](set, cx) {
        // Most zones' servers are elsewhere: then nothing need be made.
        if (set.records.length < 2 || !hostAddresses(cx.zones, cx.zones.target(set.records[0])) || isPrivate(cx.zones, set.zone)) return
        const networks = { [TYPE.A]: new Set<string>(), [TYPE.AAAA]: new Set<string>() }
        for (const record of set.records) {
          const records = hostAddresses(cx.zones, cx.zones.target(record))?.records ?? []
          if (records.length === 0) return
          for (const address of records) {
            const type = cx.zones.type(address) as keyof typeof networks
            networks[type].add(
              cx.zones
                .rdata(address)
                .subarray(0, type === TYPE.A ? 3 : 6)
                .join('.'),
            )
          }
        }
        if (networks[TYPE.A].size > 1 || networks[TYPE.AAAA].size > 1 || new Set(set.records.map((record) => cx.zones.target(record))).size < 2) return
        const address = cx.zones.rdataText(hostAddresses(cx.zones, cx.zones.target(set.records[0]))!.records[0])
        cx.report({
          record: set.records[0],
          message: `all ${set.records.length} name servers of ${cx.name(set.owner)} are in the network of ${address}`,
          consequence: 'When that network is cut off, so is everything below the name.',
          fix: ['add a name server in another network'],
        })
      },
    },
  },
}

const targetsOf = (zones: Zones, records: readonly RecordId[]): Set<NameId> => new Set(records.map((record) => zones.target(record)))

function dataKeys(zones: Zones, records: readonly RecordId[]): string {
  return [...new Set(records.map((record) => `${zones.type(record)} ${rdataKey(zones.type(record), zones.rdata(record))}`))].sort().join('\n')
}

export const nsChildDiffers: Rule = {
  code: 'ns/child-differs',
  severity: 'warning',
  source: 'RFC 1034 §4.2.2',
  title: 'a delegation whose name servers, or their addresses, differ from the child zone’s own',
  why: 'Resolvers start with the parent’s list and go over to the child’s. Where the two differ, some ask servers that do not have the zone: now and then an answer fails.',
  remedy: 'Give both zones the same NS set and the same addresses.',
  bad: [
    PARENT_CHILD(TWO, '@ NS ns1.upland-dns.example.\n@ NS ns3.upland-dns.example.'),
    PARENT_CHILD('isle NS ns1.larkpost.example.\nisle NS ns2.larkpost.example.', TWO_BELOW),
    PARENT_CHILD('isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.66', '@ NS ns1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53'),
  ],
  good: [
    PARENT_CHILD(TWO, TWO_BELOW),
    PARENT_CHILD('isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53', '@ NS NS1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53'),
  ],
  visit: {
    zone(zone, cx) {
      const { zones } = cx
      for (const { child, records } of delegationOf(cx, zone)) {
        const own = zones.records(child.apex, TYPE.NS, child.index)
        if (own.length === 0 || records.length === 0) continue
        const above = targetsOf(zones, records)
        const below = targetsOf(zones, own)
        const onlyAbove = [...above].filter((name) => !below.has(name)).map(cx.name)
        const onlyBelow = [...below].filter((name) => !above.has(name)).map(cx.name)
        if (onlyAbove.length + onlyBelow.length > 0) {
          const nothing = onlyAbove.length === above.size
          const parts = [
            onlyAbove.length > 0 && `only here: ${listed(onlyAbove)}`,
            onlyBelow.length > 0 && `only in ${child.name}: ${listed(onlyBelow)}`,
          ].filter(Boolean)
          cx.report({
            record: records[0],
            severity: nothing ? 'error' : 'warning',
            message: `${child.name} is delegated with other name servers than it has itself (${cx.where(own[0], records[0])}); ${parts.join('; ')}`,
            consequence: nothing
              ? 'Resolvers are sent to servers that do not answer for the zone.'
              : 'Some questions go to servers that do not answer for the zone.',
            fix: own.map((record) => `${child.name} ${cx.record(record)}`),
          })
        }
        for (const target of above) {
          const glue = addressesAt(zones, target, zones.zoneOfRecord(records[0]).index)
          const real = zones.zoneOf(target) === child ? addressesAt(zones, target) : []
          if (glue.length === 0 || real.length === 0 || dataKeys(zones, glue) === dataKeys(zones, real)) continue
          cx.report({
            record: glue[0],
            part: 0,
            severity: 'error',
            message: `the address of the name server ${cx.name(target)} is ${listed(glue.map((each) => zones.rdataText(each)))} here, and ${listed(real.map((each) => zones.rdataText(each)))} in ${child.name} (${cx.where(real[0], glue[0])})`,
            consequence: 'Resolvers are sent to an address where the server is not.',
            fix: real.map((each) => `${cx.name(target)} ${cx.record(each)}`),
          })
        }
      }
    },
  },
}

/** The delegation of a kept zone by its kept parent, at most one. */
function delegationOf(cx: Context, child: Zone): { child: Zone; records: RecordId[] }[] {
  const parent = parentZone(cx.zones, child)
  return parent && cx.isAbout(child.apex) ? [{ child, records: cx.zones.records(child.apex, TYPE.NS, parent.index) }] : []
}

export const nsTtlDiffers: Rule = {
  code: 'ns/ttl-differs',
  severity: 'advice',
  source: 'RFC 1034 §4.2.2',
  title: 'a delegation whose TTL differs between parent and child',
  why: 'Resolvers keep the list for one time or the other, depending on which they saw last. Before a move of the servers, the longer one counts.',
  remedy: 'Give both the same TTL, or remember the longer one.',
  bad: [PARENT_CHILD('isle 86400 NS ns1.upland-dns.example.\nisle 86400 NS ns2.upland-dns.example.', TWO_BELOW)],
  good: [PARENT_CHILD(TWO, TWO_BELOW)],
  visit: {
    zone(zone, cx) {
      for (const { child, records } of delegationOf(cx, zone)) {
        const own = cx.zones.records(child.apex, TYPE.NS, child.index)
        if (own.length === 0 || records.length === 0 || cx.zones.ttl(own[0]) === cx.zones.ttl(records[0])) continue
        cx.report({
          record: records[0],
          part: 'type',
          message: `NS of ${child.name} has TTL ${cx.zones.ttl(records[0])} here, and ${cx.zones.ttl(own[0])} in the zone itself (${cx.where(own[0], records[0])})`,
          consequence: 'It depends on the resolver how long the old servers are asked after a change.',
          fix: records.map((record) => `${child.name} ${cx.zones.ttl(own[0])} ${cx.record(record)}`),
        })
      }
    },
  },
}

export const nsDelegationMissing: Rule = {
  code: 'ns/delegation-missing',
  severity: 'error',
  source: 'RFC 1034 §4.2.1',
  title: 'a kept zone that its kept parent zone does not delegate',
  why: 'Nobody who starts at the top finds the child zone: its names do not exist for the outside, unless the same server happens to have both.',
  remedy: 'Write the child’s NS set in the parent zone, with glue where a server lies below.',
  bad: [PARENT_CHILD('www A 192.0.2.10', TWO_BELOW)],
  good: [PARENT_CHILD(TWO, TWO_BELOW)],
  visit: {
    zone(zone, cx) {
      const parent = parentZone(cx.zones, zone)
      if (!parent || parent.complete === false || !cx.isAbout(zone.apex) || cx.zones.records(zone.apex, TYPE.NS, parent.index).length > 0) return
      // Below another cut, or below a wildcard NS, somebody else delegates.
      if (cx.zones.cut(cx.zones.tree.parent(zone.apex)) !== NONE) return
      const own = cx.zones.records(zone.apex, TYPE.NS, zone.index)
      cx.report({
        record: parent.soa === NONE ? undefined : parent.soa,
        zone: parent,
        owner: zone.apex,
        message: `${parent.name} does not delegate ${zone.name}, which is kept as a zone of its own`,
        consequence: 'From outside, no name of that zone exists.',
        fix: own.length > 0 ? own.map((record) => `${zone.name} ${cx.record(record)}`) : [`${zone.name} NS SERVER.`],
      })
    },
  },
}

export const keptSameNameTwoZones: Rule = {
  code: 'zones/same-name-two-zones',
  severity: 'error',
  source: 'RFC 1034 §4.2.1',
  title: 'a name of a kept child zone that is given in the parent’s file, too',
  why: 'Only the child zone’s data is ever answered. What stands in the parent is overlooked by everybody but the person who edits it.',
  remedy: 'Keep the records in the child zone alone; the parent has NS, DS and the servers’ addresses.',
  bad: [PARENT_CHILD(`${TWO}\nwww.isle A 192.0.2.10`, `${TWO_BELOW}\nwww A 192.0.2.10`), PARENT_CHILD(`${TWO}\nisle MX 0 .`, TWO_BELOW)],
  good: [
    PARENT_CHILD(
      `isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53\nisle DS 1 8 2 ${'AB'.repeat(32)}`,
      '@ NS ns1\n@ NS ns2.upland-dns.example.\nns1 A 192.0.2.53',
    ),
  ],
  visit: {
    record: {
      when: COVERED,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        const zone = zones.zoneOf(owner)
        const here = zones.zoneOfRecord(record)
        if (!zone || zone === here || zone.apex === here.apex || !zones.tree.isAtOrBelow(owner, here.apex)) return
        const type = zones.type(record)
        if (type === TYPE.RRSIG || type === TYPE.NSEC || (owner === zone.apex && (type === TYPE.NS || type === TYPE.DS))) return
        const memory = cx.memory((): { told: Set<string>; servers?: Set<NameId> } => ({ told: new Set() }))
        if (type === TYPE.A || type === TYPE.AAAA) {
          memory.servers ??= delegatedTo(zones)
          if (memory.servers.has(owner)) return
        }
        const key = `${here.index} ${owner}`
        if (memory.told.has(key)) return
        memory.told.add(key)
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(owner)} ${typeText(type)} stands in the file of ${here.name}, but the name is in ${zone.name}, which is kept as ${zone.file}`,
          consequence: 'It is never answered: only the data of the child zone is.',
          fix: [`write it in ${zone.file}, or take it out`],
        })
      },
    },
  },
}

/** The name servers of all kept zones by what their kept parents say. */
function delegatedTo(zones: Zones): Set<NameId> {
  const found = new Set<NameId>()
  for (const child of zones.zones) {
    const parent = parentZone(zones, child)
    if (parent) for (const record of zones.records(child.apex, TYPE.NS, parent.index)) found.add(zones.target(record))
  }
  return found
}

export const keptZoneTwice: Rule = {
  code: 'zones/zone-twice',
  severity: 'error',
  source: 'RFC 1034 §4.2',
  title: 'two files for one zone',
  why: 'One of them is what the server has, and the other is edited. Which is which comes out on the day that something breaks.',
  remedy: 'Keep one file. Where insiders get other answers than the outside, give each its view in bramblefront.yaml.',
  bad: [{ zones: { 'hollowmere.example': 'www A 192.0.2.10', 'hollowmere.example ': 'www A 192.0.2.11' } }],
  good: [{ zones: { 'hollowmere.example': 'www A 192.0.2.10', 'lakepass.example': 'www A 192.0.2.11' } }],
  visit: {
    zone(zone, cx) {
      const first = cx.zones.zoneWithApex(zone.apex)!
      if (first === zone) return
      cx.report({
        record: zone.soa === NONE ? undefined : zone.soa,
        part: 'owner',
        zone,
        message: `${zone.file} is for ${zone.name}, and so is ${first.file}`,
        consequence: 'Only the first is looked at here; which of them is served is not said.',
        fix: [`keep one of them, or state a view for each in bramblefront.yaml`],
      })
    },
  },
}

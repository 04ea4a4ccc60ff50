/** What several rules ask of the zones. */

import { followAliases, locate, locateWire, UNKNOWN } from '../knowledge/answer.ts'
import { isSpf } from '../mail/spf/record.ts'
import { DROPPED, type RecordId, type Zone, type Zones } from '../model/zones.ts'
import { specialNetwork } from '../names/address-kinds.ts'
import { foldName, labelsOf, type Name, nameToWire } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { type NameId, type NameTree, NONE, ODD_STAR, ROOT } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'
import { TextMemory } from './text.ts'

/** The records with addresses at a name that its zone (or the stated zone's file) has. */
export function addressesAt(zones: Zones, name: NameId, zone?: number): RecordId[] {
  const found = zones.records(name, TYPE.A, zone)
  for (const record of zones.records(name, TYPE.AAAA, zone)) found.push(record)
  return found
}

/** The name whose records answer for a target, and the addresses there; undefined where they are not known. Aliases are followed. */
export function hostAddresses(zones: Zones, target: NameId): { node: NameId; records: RecordId[] } | undefined {
  let node = locate(zones, target)
  if (node >= 0 ? zones.hasCname(node) : zones.dnameAbove(target) !== NONE) node = aliasEnd(zones, target)
  if (node < 0) return undefined
  const cut = zones.cut(node)
  const zone = cut === NONE ? undefined : zones.zoneOf(node)?.index
  return { node, records: addressesAt(zones, node, zone) }
}

/** The name whose records answer at the end of a name’s aliases; UNKNOWN where they lead out of your zones, or nowhere. */
export function aliasEnd(zones: Zones, name: NameId): NameId {
  const { end } = followAliases(zones, nameToWire(zones.tree.text(name)) as Uint8Array)
  return end ? locateWire(zones, end) : UNKNOWN
}

/** Every record of these types, wherever it is: for rules that seldom need them all. */
export function recordsOf(zones: Zones, ...types: number[]): RecordId[] {
  const found: RecordId[] = []
  for (let record = 0; record < zones.count; record++)
    if (types.includes(zones.type(record)) && !(zones.flags(record) & DROPPED)) found.push(record)
  return found
}

/** The text of the SPF record at a name, or undefined. */
export function spfAt(zones: Zones, name: NameId): string | undefined {
  for (const record of zones.records(name, TYPE.TXT)) {
    const text = SPF.of(zones, record)
    if (text !== undefined) return text
  }
  return undefined
}
const SPF = new TextMemory((text) => (isSpf(text) ? text : undefined))

/** Names that are not of the public DNS (RFC 6761, 6762, 7686, 8375, 9476; and what networks use at home and at work). */
const PRIVATE_NAME = /(?:^|\.)(?:local|internal|home\.arpa|lan|home|corp|localhost|onion|alt)\.$/i
const PRIVATE_REVERSE =
  /(?:^|\.)(?:10|(?:1[6-9]|2\d|3[01])\.172|168\.192|127|254\.169|(?:6[4-9]|[7-9]\d|1[01]\d|12[0-7])\.100)\.in-addr\.arpa\.$|(?:^|\.)(?:[cd]\.f|[89ab]\.e\.f)\.ip6\.arpa\.$/i
const NOT_PUBLIC_NAME = /(?:^|\.)(?:local|internal|home\.arpa|lan|home|corp|test|invalid|localhost|onion|alt)\.$/i

/** Whether a zone is for insiders because it says so, or its name does. */
export function isStatedPrivate(zone: Zone): boolean {
  return zone.audience === 'private' || (zone.audience === undefined && byName(zone).isPrivate)
}

/** Whether a zone is for insiders: it says so, its name does, or all of its addresses do. Nobody outside needs anything of it then. */
export function isPrivate(zones: Zones, zone: Zone): boolean {
  return isStatedPrivate(zone) || (zone.audience === undefined && privateByAddresses(zones).has(zone.index))
}

/** So few private addresses may be there by mistake. */
const FEW_ADDRESSES = 3

/** The zones in which no address, of several, is one that the outside could reach. Lists of addresses, which answer with loopback ones, are none of them. */
function privateByAddresses(zones: Zones): ReadonlySet<number> {
  const known = BY_ADDRESSES.get(zones)
  if (known?.count === zones.count) return known.found
  const inside = new Int32Array(zones.zones.length)
  for (let record = 0; record < zones.count; record++) {
    const type = zones.type(record)
    if (type !== TYPE.A && type !== TYPE.AAAA) continue
    const zone = zones.zoneOfRecord(record).index
    if (inside[zone]! < 0) continue
    const network = specialNetwork(zones.data.octets, zones.dataStart(record), zones.dataOctets(record))
    if (!network?.unreachable) inside[zone] = -1
    else if (network.kind !== 'loopback') inside[zone]!++
  }
  const found = new Set<number>()
  for (const [zone, count] of inside.entries()) if (count >= FEW_ADDRESSES) found.add(zone)
  BY_ADDRESSES.set(zones, { count: zones.count, found })
  return found
}
const BY_ADDRESSES = new WeakMap<Zones, { count: number; found: ReadonlySet<number> }>()

export const isReverse = (zone: Zone): boolean => byName(zone).isReverse

/** Whether a zone should have records of mail: others may not add to it, and it is neither for insiders nor for names of addresses. */
export const isOfMail = (zones: Zones, zone: Zone): boolean =>
  zone.complete !== false && !isReverse(zone) && !isPrivate(zones, zone)

/** What a zone's name says of it; asked for each name with mail, so it is remembered. */
function byName(zone: Zone): { isPrivate: boolean; isReverse: boolean } {
  let found = BY_NAME.get(zone)
  if (!found) {
    found = {
      isPrivate: PRIVATE_NAME.test(zone.name) || PRIVATE_REVERSE.test(zone.name),
      isReverse: /(?:^|\.)(?:in-addr|ip6)\.arpa\.$/i.test(zone.name),
    }
    BY_NAME.set(zone, found)
  }
  return found
}
const BY_NAME = new WeakMap<Zone, { isPrivate: boolean; isReverse: boolean }>()

/** Why nobody outside can reach a target by its name, in words; undefined where nothing says so. */
export function notPublicName(name: Name): string | undefined {
  if (labelsOf(name).length === 1) return 'a single label, which only one’s own network completes'
  const match = NOT_PUBLIC_NAME.exec(foldName(name))
  return match
    ? `a name under ${match[0].replace(/^\./, '').replace(/\.$/, '')}, which the public DNS does not have`
    : undefined
}

/** Whether nobody outside can reach an address. */
export function isUnreachable(address: Uint8Array): boolean {
  return specialNetwork(address)?.unreachable === true
}

/** A name in the zones by its text, or NONE. */
export function named(zones: Zones, name: Name): NameId {
  const wire = nameToWire(name)
  return typeof wire === 'string' ? NONE : zones.tree.findWire(wire)
}

/** "a, b, c and 4 more". */
export function listed(items: readonly string[], most = 5): string {
  return items.length <= most + 1
    ? items.join(', ')
    : `${items.slice(0, most).join(', ')} and ${items.length - most} more`
}

/** The zone that a kept zone is delegated from, where that is kept, too. */
export function parentZone(zones: Zones, zone: Zone): Zone | undefined {
  if (zone.apex === 0 || zones.zoneWithApex(zone.apex) !== zone) return undefined
  return zones.zoneOf(zones.tree.parent(zone.apex))
}

/** Whether a name is a selector: below a `_domainkey`, at any depth, since selectors may have dots (RFC 6376 §3.1). */
export const isSelector = (zones: Zones, name: NameId): boolean => domainkeyAbove(zones, name) !== NONE

/** The nearest `_domainkey` above a name, or NONE. */
export function domainkeyAbove({ tree }: Zones, name: NameId): NameId {
  for (let above = name === ROOT ? ROOT : tree.parent(name); above > ROOT; above = tree.parent(above))
    if (
      tree.labelOctet(above, 0) === 0x5f &&
      tree.labelLength(above) === DOMAINKEY.length &&
      tree.labelText(above) === '_domainkey'
    )
      return above
  return NONE
}
const DOMAINKEY = octetsOf('_domainkey')
const DMARC = octetsOf('_dmarc')

/** Whether there is a name below the `_domainkey` of a name. */
export const hasKeys = (zones: Zones, name: NameId): boolean => existsBelow(zones, name, DOMAINKEY) !== NONE
/** The `_dmarc` of a name, where it has a text or is an alias; else NONE. */
export function dmarcBelow(zones: Zones, name: NameId): NameId {
  const found = existsBelow(zones, name, DMARC)
  return found !== NONE && (zones.has(found, TYPE.TXT) || zones.hasCname(found)) ? found : NONE
}

function existsBelow(zones: Zones, name: NameId, label: Uint8Array): NameId {
  const found = zones.tree.find(name, label, 0, label.length)
  return found !== NONE && zones.exists(found) ? found : NONE
}

/** Whether a name has a “*” in it that makes no wildcard (RFC 4592 §2.1.1). */
export const hasStrayStar = (tree: NameTree, name: NameId): boolean =>
  (tree.oddness(name) & ODD_STAR) !== 0 &&
  (!tree.isWildcard(name) || (tree.oddness(tree.parent(name)) & ODD_STAR) !== 0)

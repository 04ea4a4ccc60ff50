/** Which names a change of record sets can make right or wrong: for checking these alone before and after it. */

import type { SetChange } from '../file/edit/changes.ts'
import { isDmarc, readDmarc } from '../mail/dmarc/record.ts'
import { targetOf } from '../mail/spf/budget.ts'
import { isSpf, readSpf, type SpfTerm } from '../mail/spf/record.ts'
import type { RecordId, Zone, Zones } from '../model/zones.ts'
import { labelsOf, nameToWire } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'
import { dmarcBelow, named } from '../rules/look.ts'
import { TextMemory } from '../rules/text.ts'

const STAR = octetsOf('*')
/** Hosts at which MX is looked for when the domain has none. */
const MAIL_HOSTS = ['mail', 'mx', 'smtp'].map(octetsOf)

/**
 * The changed names; what points to them, or to a name above them (which may exist only because of them); and, where a wildcard, a cut or a DNAME changes, or a name
 * comes to exist or ceases to (a wildcard answers below names that do not exist only, RFC 4592 §3.3.1), whatever stands in its reach or points there; and what mail makes of
 * it: policies at and above the name, records that include it, domains that a policy or an SPF record speaks for. To be asked before the change: names that it brings are made known here.
 */
export function affectedBy(zones: Zones, zone: Zone, changes: readonly SetChange[]): Set<NameId> {
  const { tree } = zones
  const known = tree.count
  const owners = changes.map((change) => tree.internWire(nameToWire(change.owner) as Uint8Array))
  /** One for each name that, pointed to, is the changed name or above it. */
  const pointedTo = new Uint8Array(tree.count)
  const reaches: NameId[] = []
  /** Names that come to exist or cease to. */
  const turned: NameId[] = []
  changes.forEach((change, i) => {
    for (let name = owners[i]!; name !== NONE && tree.isAtOrBelow(name, zone.apex); name = tree.parent(name))
      pointedTo[name] = 1
    if (tree.isWildcard(owners[i]!)) reaches.push(tree.parent(owners[i]!))
    else if (change.type === TYPE.NS || change.type === TYPE.DNAME) reaches.push(owners[i]!)
    const turning =
      change.data.length > 0
        ? comingToExist(zones, zone, owners[i]!)
        : ceasingToExist(zones, zone, owners[i]!, changes, owners)
    if (turning !== NONE) reaches.push(turning)
    if (turning !== NONE) turned.push(turning)
  })
  const affected = new Set(owners)
  changes.forEach((change, i) => {
    // A wildcard beside the name, or beside one above it, may not answer there any more, or again.
    for (let name = owners[i]!; name !== zone.apex && name > ROOT; name = tree.parent(name))
      add(tree.find(tree.parent(name), STAR, 0, 1))
    if (change.type === TYPE.MX) for (const label of MAIL_HOSTS) add(tree.find(owners[i]!, label, 0, label.length))
  })
  function add(name: NameId): void {
    if (name !== NONE) affected.add(name)
  }
  for (let record = 0; record < zones.count; record++) {
    const owner = zones.owner(record)
    const target = zones.target(record)
    if (target !== NONE && pointedTo[target]) affected.add(owner)
    for (let i = 0; i < reaches.length; i++)
      if ((target !== NONE && tree.isAtOrBelow(target, reaches[i]!)) || tree.isAtOrBelow(owner, reaches[i]!))
        affected.add(owner)
  }
  // What is asked of a name needs its place in the zones.
  if (tree.count > known) zones.sealNames()
  changes.forEach((change, i) => {
    if (change.type === TYPE.CNAME) for (const data of change.data) add(tree.findWire(data))
    if (MAIL.has(change.type)) addMail(zones, zone, owners[i]!, change.type, affected)
  })
  for (const name of turned) addMail(zones, zone, name, TYPE.TXT, affected)
  for (const change of changes) addCatalog(zones, zone, change, affected)
  addReferring(zones, affected, reaches)
  return affected
}

/** In a catalog zone (RFC 9432): what makes it one is about all of it; a zone that it lists may be listed elsewhere, too. */
function addCatalog(zones: Zones, zone: Zone, { owner, type }: SetChange, affected: Set<NameId>): void {
  const { tree } = zones
  const id = tree.findWire(nameToWire(owner) as Uint8Array)
  if (id === NONE || id === ROOT) return
  const isMark =
    type === TYPE.TXT ? labelsOf(owner)[0]?.toLowerCase() === 'version' : type === TYPE.NS && id === zone.apex
  const parent = tree.parent(id)
  const above = type === TYPE.PTR && parent !== ROOT && tree.parent(parent) === zone.apex ? parent : NONE
  if (!isMark && above === NONE) return
  const version = tree.find(zone.apex, VERSION, 0, VERSION.length)
  if (version === NONE) return
  for (const record of zones.recordsIn(zone))
    if (isMark || tree.parent(zones.owner(record)) === above) affected.add(zones.owner(record))
}
const VERSION = octetsOf('version')

const MAIL = new Set<number>([TYPE.TXT, TYPE.MX, TYPE.CNAME, TYPE.A, TYPE.AAAA, TYPE.NS, TYPE.DNAME])

/** What a text speaks of in other names: of SPF the terms that lead there, of a policy the domains of its reports. */
const SPOKEN = new TextMemory<{ terms: readonly SpfTerm[]; domains: readonly string[] } | undefined>((text) => {
  if (isSpf(text)) {
    const terms = readSpf(text).record.terms.filter((term) => term.kind === 'modifier' || term.macros !== undefined)
    return terms.length === 0 ? undefined : { terms, domains: [] }
  }
  if (!isDmarc(text)) return undefined
  const { rua, ruf } = readDmarc(text).record
  const domains = [...rua, ...ruf].flatMap(({ domain }) => domain ?? [])
  return domains.length === 0 ? undefined : { terms: [], domains }
})

/** Adds what mail makes of a changed name. */
function addMail(zones: Zones, zone: Zone, owner: NameId, type: number, affected: Set<NameId>): void {
  const { tree } = zones
  const label = tree.labelText(owner)
  for (let name = owner; tree.isAtOrBelow(name, zone.apex) && name !== ROOT; name = tree.parent(name)) {
    affected.add(name)
    const policy = dmarcBelow(zones, name)
    if (policy !== NONE) affected.add(policy)
  }
  for (let record = zones.first(owner); record !== NONE; record = zones.next(record))
    if (zones.type(record) === TYPE.CNAME) affected.add(zones.target(record))
  // A domain’s policy and SPF record are measured at what is below; a consent, at whoever asks for it.
  const speaksFor =
    label === '_dmarc' || label === '*' ? tree.parent(owner) : owner === zone.apex && type !== TYPE.MX ? owner : NONE
  const consents = /\._report\._dmarc\./i.test(tree.text(owner))
  if (speaksFor === NONE && !consents) return
  for (let record = 0; record < zones.count; record++) {
    const at = zones.owner(record)
    if (zones.type(record) === TYPE.MX) {
      if (speaksFor !== NONE && tree.isAtOrBelow(at, speaksFor)) affected.add(at)
    } else if (zones.type(record) === TYPE.TXT) {
      const isPolicy = tree.labelOctet(at, 0) === 0x5f && tree.labelText(at) === '_dmarc'
      if (isPolicy && (consents || tree.isAtOrBelow(at, speaksFor))) affected.add(at)
      if (speaksFor !== NONE && zones.zoneOf(at)?.apex === at && tree.isAtOrBelow(at, speaksFor)) affected.add(at)
    }
  }
}

/** Whether a text could speak of a name at all: it has a colon (but for those of ip4 and ip6), or redirect= or exp=. */
function mayName(zones: Zones, record: RecordId): boolean {
  const { octets } = zones.data
  const at = zones.dataStart(record)
  const end = at + zones.dataOctets(record)
  for (let i = at + 2; i < end; i++) {
    if (octets[i] === 0x3a && octets[i - 1] !== 0x34 && octets[i - 1] !== 0x36) return true
    if (octets[i] === 0x3d && ((octets[i - 1]! | 0x20) === 0x74 || (octets[i - 1]! | 0x20) === 0x70)) return true
  }
  return false
}

/** Adds the owners of texts that speak of what is affected, of a name in a reach, or of one that an affected wildcard may answer for; and of texts that include these. */
function addReferring(zones: Zones, affected: Set<NameId>, reaches: readonly NameId[]): void {
  const { tree } = zones
  /** By a name: the owners of texts that it concerns. */
  const concerned = new Map<NameId, NameId[]>()
  const inReach: NameId[] = []
  for (let record = 0; record < zones.count; record++) {
    if (zones.type(record) !== TYPE.TXT || !mayName(zones, record)) continue
    const spoken = SPOKEN.of(zones, record)
    if (!spoken) continue
    const at = zones.owner(record)
    for (const name of [...spoken.domains, ...spoken.terms.flatMap((term) => targetOf(term, tree.text(at)) ?? [])]) {
      const whole = named(zones, name)
      const closest = whole !== NONE ? whole : closestAbove(zones, name)
      if (reaches.some((reach) => tree.isAtOrBelow(closest, reach))) inReach.push(at)
      for (const each of [
        whole,
        tree.find(closest, STAR, 0, 1),
        closest === ROOT ? NONE : tree.find(tree.parent(closest), STAR, 0, 1),
      ]) {
        if (each === NONE) continue
        const owners = concerned.get(each)
        if (owners) owners.push(at)
        else concerned.set(each, [at])
      }
    }
  }
  // Records that include one that is affected are, too.
  const next = [...affected]
  const add = (owner: NameId): void => {
    if (affected.has(owner)) return
    affected.add(owner)
    next.push(owner)
  }
  for (const owner of inReach) add(owner)
  for (let name = next.pop(); name !== undefined; name = next.pop())
    for (const owner of concerned.get(name) ?? []) add(owner)
}

/** The closest name above one that is not in the tree itself. */
function closestAbove(zones: Zones, name: string): NameId {
  const labels = labelsOf(name)
  for (let i = 1; i < labels.length; i++) {
    const above = named(zones, `${labels.slice(i).join('.')}.`)
    if (above !== NONE) return above
  }
  return ROOT
}

/** The highest name, from one upwards, that does not exist yet, or NONE. */
function comingToExist(zones: Zones, zone: Zone, owner: NameId): NameId {
  let highest = NONE
  for (let name = owner; name !== zone.apex && name > ROOT && !zones.exists(name); name = zones.tree.parent(name))
    highest = name
  return highest
}

/** The highest name, from one upwards, at or below which nothing is left once the changes that remove whole sets are made, or NONE. */
function ceasingToExist(
  zones: Zones,
  zone: Zone,
  owner: NameId,
  changes: readonly SetChange[],
  owners: readonly NameId[],
): NameId {
  const { tree } = zones
  const chain: NameId[] = []
  for (let name = owner; name !== zone.apex && name > ROOT; name = tree.parent(name)) chain.push(name)
  const goes = (record: number): boolean =>
    changes.some(
      (change, i) =>
        change.data.length === 0 && owners[i] === zones.owner(record) && change.type === zones.type(record),
    )
  let alive = chain.length
  for (const record of zones.recordsIn(zone)) {
    if (alive === 0) break
    for (let i = 0; i < alive; i++) if (tree.isAtOrBelow(zones.owner(record), chain[i]!) && !goes(record)) alive = i
  }
  return alive > 0 ? chain[alive - 1]! : NONE
}

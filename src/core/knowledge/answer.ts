/**
 * What a server with the kept zones answers to a question (RFC 1034 §4.3.2, RFC 2308, RFC 4592, RFC 6604, RFC 8020).
 * Rules use `locate`, which works on numbers; the edges use `answer`, which works on names and record sets.
 */

import type { RecordId, RecordSet, Zone, Zones } from '../model/zones.ts'
import { foldName, MAX_NAME, type Name, nameToWire, wireToName } from '../names/name.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { type Rdata, rdataKey } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { soa } from '../records/views.ts'
import { Chain, type ChainTrouble, type Step } from './chain.ts'

/** `locate`: the name is in a kept, complete zone and does not exist, nor does a wildcard cover it. */
export const MISSING = -1
/** `locate`: nothing can be known of the name. */
export const UNKNOWN = -2

/**
 * The name whose records answer for `name`: itself, the wildcard that covers it, MISSING, or UNKNOWN (in no kept zone, below a DNAME, below a cut without glue, or absent from a zone
 * to which others add names). The zones must be sealed.
 */
export function locate(zones: Zones, name: NameId): NameId {
  const zone = zones.zoneOf(name)
  if (!zone) return UNKNOWN
  if (zones.dnameAbove(name) !== NONE) return UNKNOWN
  if (zones.cut(name) !== NONE) return zones.has(name, TYPE.A) || zones.has(name, TYPE.AAAA) ? name : UNKNOWN
  if (zones.exists(name)) return name
  return name === zone.apex ? UNKNOWN : absent(zones, zones.tree.parent(name), zone)
}

/** `locate` for a name that may not be in the tree; what is no name is UNKNOWN. */
export function locateName(zones: Zones, name: Name): NameId {
  const wire = nameToWire(name)
  return typeof wire === 'string' ? UNKNOWN : locateWire(zones, wire)
}

/** `locate` for a name in wire octets, from `at` on. */
export function locateWire(zones: Zones, wire: Uint8Array, at = 0): NameId {
  const { closest, whole } = descend(zones, wire, at)
  if (whole) return locate(zones, closest)
  const zone = zones.zoneOf(closest)
  if (!zone || zones.cut(closest) !== NONE || zones.dnameAbove(closest) !== NONE || zones.hasDname(closest))
    return UNKNOWN
  return absent(zones, closest, zone)
}

/** What answers for a name below `above` that does not exist: a wildcard; else it is MISSING, or UNKNOWN where others add names or nothing of the zone could be read. */
function absent(zones: Zones, above: NameId, zone: Zone): NameId {
  const covering = wildcardFor(zones, above, zone)
  return covering !== NONE ? covering : zone.complete === false || !zones.exists(zone.apex) ? UNKNOWN : MISSING
}

/** An alias: the record that makes it one, the name that has that record, and the name that it stands for (wire octets). */
export interface AliasStep {
  record: RecordId
  node: NameId
  to: Uint8Array
}

/**
 * What makes a name (wire octets) an alias: a CNAME at it or at the wildcard that covers it, or a DNAME above it, which makes one (RFC 6672 §2.2).
 * Undefined for a name that is none, or of which nothing is known; `too-long` where a DNAME makes a name that is none.
 */
export function aliasOf(zones: Zones, wire: Uint8Array): AliasStep | 'too-long' | undefined {
  const { closest, whole } = descend(zones, wire)
  const zone = zones.zoneOf(closest)
  if (!zone) return undefined
  const cut = cutFor(zones, closest, whole, TYPE.A, zone)
  const dname = dnameFor(zones, closest, whole, zone)
  if (dname !== NONE && (cut === NONE || (cut !== dname && zones.tree.isAtOrBelow(cut, dname)))) {
    const record = zones.records(dname, TYPE.DNAME)[0]!
    const to = rewrite(wire, zones.tree.wireLength(dname), zones.rdata(record))
    return to ? { record, node: dname, to } : 'too-long'
  }
  const node = locateWire(zones, wire)
  if (node < 0 || !zones.hasCname(node)) return undefined
  const record = zones.records(node, TYPE.CNAME)[0]!
  return { record, node, to: zones.rdata(record) }
}

/** Where aliases lead from a name (wire octets): the steps in order, and the name at their end, or why they have none. */
export function followAliases(
  zones: Zones,
  wire: Uint8Array,
): { steps: AliasStep[] } & ({ end: Uint8Array; trouble?: undefined } | { end?: undefined; trouble: ChainTrouble }) {
  const steps: AliasStep[] = []
  const chain = new Chain(wireToName(wire))
  for (let here = wire; ; ) {
    const step = aliasOf(zones, here)
    if (step === undefined) return { steps, end: here }
    if (step === 'too-long') return { steps, trouble: 'long-name' }
    steps.push(step)
    const trouble = chain.goOn(wireToName(step.to))
    if (trouble) return { steps, trouble }
    here = step.to
  }
}

const STAR = new Uint8Array([0x2a])

/** The wildcard that answers for names below `name` (in the zone) that do not exist, or NONE: the one directly below the closest encloser (RFC 4592 §3.3.1). */
function wildcardFor(zones: Zones, name: NameId, zone: Zone): NameId {
  let encloser = name
  while (encloser !== zone.apex && encloser !== ROOT && !zones.exists(encloser)) encloser = zones.tree.parent(encloser)
  const star = zones.tree.find(encloser, STAR, 0, 1)
  return star !== NONE && zones.exists(star) && zones.zoneOf(star) === zone ? star : NONE
}

export type AnswerKind =
  /** Data of the type asked for, at the name or at the end of its aliases. */
  | 'data'
  /** The name exists, and has nothing of that type. */
  | 'no-data'
  /** The name does not exist. */
  | 'no-name'
  /** The servers of a delegated zone answer for it. */
  | 'referral'
  /** Aliases lead out of the kept zones, or in a circle. */
  | 'alias'
  /** The name is in no kept zone, or in one that has no readable record (SERVFAIL). */
  | 'not-kept'

export interface Answer {
  kind: AnswerKind
  /** NOERROR 0, SERVFAIL 2, NXDOMAIN 3, REFUSED 5, YXDOMAIN 6. */
  rcode: number
  authoritative: boolean
  /** The aliases in order, then the data. */
  answers: RecordSet[]
  authority: RecordSet[]
  additional: RecordSet[]
  /** The zone that the last name looked up is in. */
  zone?: Zone
  /** How the name that was asked for led to the last one that was looked up, or would have been. */
  steps: Step[]
  /** Why the chain leads nowhere, where it does. */
  trouble?: ChainTrouble
}

/** Types that are answered from an alias's own name (RFC 4035 §2.5). */
const BESIDE_ALIAS = new Set<number>([TYPE.CNAME, TYPE.RRSIG, TYPE.NSEC, TYPE.KEY])

/**
 * The set that a server answers with at a name (in the tree) from the records there alone: where it is below no cut and no DNAME, and no CNAME hides it. Undefined elsewhere: `answer` tells
 * what comes there, and costs several times as much.
 */
export function plainSet(zones: Zones, name: NameId, type: number, zone: Zone): RecordSet | undefined {
  if (zones.zoneOf(name) !== zone || zones.cut(name) !== NONE || zones.dnameAbove(name) !== NONE) return undefined
  if (zones.hasCname(name) && !BESIDE_ALIAS.has(type)) return undefined
  const set = zones.set(name, type, zone.index)
  return set && unrepeated(set)
}

/** What a server with these zones (sealed) answers to a question of class IN. `name` is absolute; a text that is no name is answered as not kept. */
export function answer(zones: Zones, name: Name, type: number): Answer {
  const result: Answer = {
    kind: 'not-kept',
    rcode: 5,
    authoritative: false,
    answers: [],
    authority: [],
    additional: [],
    steps: [],
  }
  const wire = nameToWire(name)
  if (typeof wire === 'string') return result
  let question: Uint8Array = wire
  const chain = new Chain(wireToName(wire))
  for (let first = true; ; first = false) {
    const owner = wireToName(question)
    const { closest, whole } = descend(zones, question)
    const zone = zoneToAnswer(zones, closest, whole, type)
    if (!zone) return first ? result : { ...result, kind: 'alias' }
    // Nothing of it could be read: no server loads it.
    if (!zones.exists(zone.apex)) return first ? { ...result, zone, rcode: 2 } : { ...result, zone, kind: 'alias' }
    result.zone = zone
    result.rcode = 0
    const cut = cutFor(zones, closest, whole, type, zone)
    const dname = dnameFor(zones, closest, whole, zone)
    // The search goes downwards: what it meets first counts.
    if (dname !== NONE && (cut === NONE || (cut !== dname && zones.tree.isAtOrBelow(cut, dname)))) {
      if (first) result.authoritative = true
      const set = unrepeated(zones.set(dname, TYPE.DNAME, zone.index)!)
      if (!result.answers.some((each) => each.type === TYPE.DNAME && foldName(each.owner) === foldName(set.owner)))
        result.answers.push(set)
      const rewritten = rewrite(question, zones.tree.wireLength(dname), set.data[0]!)
      // RFC 6672 §2.2: YXDOMAIN where the new name would be too long.
      if (!rewritten) return { ...result, kind: 'alias', rcode: 6, trouble: 'long-name' }
      result.answers.push({ owner, type: TYPE.CNAME, ttl: set.ttl, data: [rewritten] })
      if (type === TYPE.CNAME) return { ...result, kind: 'data' }
      const to = wireToName(rewritten)
      result.steps.push({ owner, by: 'DNAME', to, ttl: set.ttl, zone: zone.name })
      const trouble = chain.goOn(to)
      if (trouble) return { ...result, kind: 'alias', trouble }
      question = rewritten
      continue
    }
    if (cut !== NONE) {
      if (first) result.authoritative = false
      return refer(zones, result, cut, zone)
    }
    if (first) result.authoritative = true
    const node = whole && existsIn(zones, closest, zone) ? closest : coveringIn(zones, closest, whole, zone)
    if (node === NONE) return denied(zones, { ...result, kind: 'no-name', rcode: 3 }, zone)
    const alias = BESIDE_ALIAS.has(type) ? undefined : zones.set(node, TYPE.CNAME, zone.index)
    const set = alias ? undefined : zones.set(node, type, zone.index)
    const source = whole && node === closest ? owner : zones.tree.text(node)
    if (source !== owner) {
      const ttl = (alias ?? set)?.ttl ?? 0
      result.steps.push({ owner, by: 'wildcard', to: source, ttl, zone: zone.name })
    }
    if (set) {
      result.answers.push({ ...unrepeated(set), owner })
      addAddresses(zones, result, node, type, zone)
      return { ...result, kind: 'data' }
    }
    if (!alias) return denied(zones, { ...result, kind: 'no-data' }, zone)
    result.answers.push({ ...unrepeated(alias), owner })
    const to = wireToName(alias.data[0]!)
    result.steps.push({ owner: source, by: 'CNAME', to, ttl: alias.ttl, zone: zone.name })
    const trouble = chain.goOn(to)
    if (trouble) return { ...result, kind: 'alias', trouble }
    question = alias.data[0]!
  }
}

/** How long a negative answer may be cached, in seconds: the lesser of its SOA record's TTL and minimum (RFC 2308 §5). */
export function negativeTtl(ttl: number, data: Rdata): number {
  return Math.min(ttl, soa(data).minimum)
}

/** Follows the labels of a wire name from the root as far as the tree has them; `whole` where it has them all. */
function descend(zones: Zones, wire: Uint8Array, from = 0): { closest: NameId; whole: boolean } {
  const starts: number[] = []
  for (let at = from; wire[at] !== 0; at += wire[at]! + 1) starts.push(at)
  let closest: NameId = ROOT
  while (starts.length > 0) {
    const at = starts[starts.length - 1]!
    const below = zones.tree.find(closest, wire, at + 1, at + 1 + wire[at]!)
    if (below === NONE) break
    closest = below
    starts.pop()
  }
  return { closest, whole: starts.length === 0 }
}

/** The deepest of your zones that a name (absolute, in the tree or not) is in, or undefined. */
export function zoneOfName(zones: Zones, name: Name): Zone | undefined {
  const wire = nameToWire(name)
  return typeof wire === 'string' ? undefined : zones.zoneOf(descend(zones, wire).closest)
}

/** The deepest kept zone at or above the name; for DS at a zone's top, the zone above it, where that is kept (RFC 4035 §3.1.4.1). */
function zoneToAnswer(zones: Zones, closest: NameId, whole: boolean, type: number): Zone | undefined {
  const zone = zones.zoneOf(closest)
  if (type !== TYPE.DS || !whole || !zone || zone.apex !== closest || closest === ROOT) return zone
  return zones.zoneOf(zones.tree.parent(closest)) ?? zone
}

function cutFor(zones: Zones, closest: NameId, whole: boolean, type: number, zone: Zone): NameId {
  if (zones.zoneOf(closest) !== zone) return NONE
  const cut = zones.cut(closest)
  return cut !== NONE && whole && cut === closest && type === TYPE.DS ? NONE : cut
}

function dnameFor(zones: Zones, closest: NameId, whole: boolean, zone: Zone): NameId {
  if (zones.zoneOf(closest) !== zone) return NONE
  const above = zones.dnameAbove(closest)
  return above === NONE && !whole && zones.hasDname(closest) ? closest : above
}

/** The question with its last octets, those of the DNAME's owner, replaced by its target; undefined where that is too long. */
function rewrite(question: Uint8Array, ownerLength: number, target: Uint8Array): Uint8Array | undefined {
  const kept = question.length - ownerLength
  if (kept + target.length > MAX_NAME) return undefined
  const rewritten = new Uint8Array(kept + target.length)
  rewritten.set(question.subarray(0, kept))
  rewritten.set(target, kept)
  return rewritten
}

const existsIn = (zones: Zones, name: NameId, zone: Zone): boolean => zones.zoneOf(name) !== zone || zones.exists(name)

function coveringIn(zones: Zones, closest: NameId, whole: boolean, zone: Zone): NameId {
  return wildcardFor(zones, whole ? zones.tree.parent(closest) : closest, zone)
}

function refer(zones: Zones, result: Answer, cut: NameId, zone: Zone): Answer {
  const servers = zones.set(cut, TYPE.NS, zone.index)!
  result.authority.push(unrepeated(servers))
  addAddresses(zones, result, cut, TYPE.NS, zone)
  return { ...result, kind: 'referral' }
}

function denied(zones: Zones, result: Answer, zone: Zone): Answer {
  const set = zones.set(zone.apex, TYPE.SOA, zone.index)
  if (set) result.authority.push(unrepeated(set))
  return result
}

/** Addresses of the names that the records just given point to, where they are in the kept zones (glue included). */
function addAddresses(zones: Zones, result: Answer, node: NameId, type: number, zone: Zone): void {
  if (type !== TYPE.NS && type !== TYPE.MX && type !== TYPE.SRV) return
  for (const record of zones.records(node, type, zone.index)) {
    const target = zones.target(record)
    for (const family of [TYPE.A, TYPE.AAAA]) {
      const set = zones.set(target, family) ?? zones.set(target, family, zone.index)
      if (set && !result.additional.some((s) => s.type === family && s.owner === set.owner))
        result.additional.push(unrepeated(set))
    }
  }
}

/** Two records with the same data are one (RFC 2181 §5). */
function unrepeated(set: RecordSet): RecordSet {
  if (set.data.length < 2) return set
  const kept = new Map(set.data.map((data) => [rdataKey(set.type, data), data]))
  return { ...set, data: [...kept.values()] }
}

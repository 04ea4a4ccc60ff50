/** A short text that is equal for equal zones: to notice that a zone is no longer, or is again, what it was. */

import { DROPPED, type RecordId, type Zone, type Zones } from '../model/zones.ts'
import { type Name, nameToWire } from '../names/name.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { canonicalRdata } from '../records/rdata.ts'
import { rowOf, TYPE } from '../records/types.ts'

/**
 * The digest of a zone’s records, in no order: owner (in lower case), type, class, TTL, data in canonical form (RFC 4034 §6.2). Of the SOA record the serial is left out,
 * so that a zone that is put back is again what it was. It is made in one pass, and is no proof against those who want two zones to look alike.
 */
export const zoneDigest = (zones: Zones, zone: Zone): string => zoneSum(zones, zone).text

/** The same as a sum, which a change of some sets makes another one without a look at all the others. */
export const zoneSum = (zones: Zones, zone: Zone): Sum => sumOf(zones, zones.recordsIn(zone))

/** The part of a zone’s sum that these sets are. */
export function setsSum(zones: Zones, zone: Zone, sets: readonly { owner: Name; type: number }[]): Sum {
  const records = new Set<RecordId>()
  for (const { owner, type } of sets) {
    const wire = nameToWire(owner)
    const id = typeof wire === 'string' ? NONE : zones.tree.findWire(wire)
    for (let record = id === NONE ? NONE : zones.first(id); record !== NONE; record = zones.next(record))
      if (zones.type(record) === type && zones.zoneOfRecord(record) === zone) records.add(record)
  }
  return sumOf(zones, records)
}

/** How many records, and the sums of their hashes. */
export class Sum {
  constructor(
    private readonly count: number,
    private readonly one: number,
    private readonly two: number,
  ) {}

  plus(other: Sum): Sum {
    return new Sum(this.count + other.count, (this.one + other.one) >>> 0, (this.two + other.two) >>> 0)
  }

  minus(other: Sum): Sum {
    return new Sum(this.count - other.count, (this.one - other.one) >>> 0, (this.two - other.two) >>> 0)
  }

  get text(): string {
    return [this.count, this.one, this.two].map((each) => each.toString(16).padStart(8, '0')).join('')
  }
}

function sumOf(zones: Zones, records: Iterable<RecordId>): Sum {
  const hash = new RecordHash(zones)
  let [count, one, two] = [0, 0, 0]
  for (const record of records) {
    if (zones.flags(record) & DROPPED) continue
    hash.take(record)
    count++
    one = (one + hash.one) >>> 0
    two = (two + hash.two) >>> 0
  }
  return new Sum(count, one, two)
}

const ONE = 0x9e3779b1
const TWO = 0x85ebca6b

/** Two hashes of 32 bits, by another multiplier each: what is different is hardly ever the same by both. */
class RecordHash {
  one = 0
  two = 0
  private readonly zones: Zones
  /** Of names: each is made of that of the name above it; zero where it is not known yet. */
  private readonly ones: Int32Array
  private readonly twos: Int32Array

  constructor(zones: Zones) {
    this.zones = zones
    this.ones = new Int32Array(zones.tree.count)
    this.twos = new Int32Array(zones.tree.count)
  }

  take(record: RecordId): void {
    const { zones } = this
    this.one = this.two = 0
    const type = zones.type(record)
    this.name(zones.owner(record))
    this.number(type)
    this.number(zones.ttl(record))
    this.number(zones.classOf(record))
    const start = zones.dataStart(record)
    const end = start + zones.dataOctets(record)
    const row = rowOf(type)
    if (!row?.folds) this.octets(zones.data.octets, start, end)
    else if (row.target === row.fields.length - 1) {
      // The target is a name whose hash is known already.
      const target = zones.target(record)
      this.octets(zones.data.octets, start, end - zones.tree.wireLength(target))
      this.name(target)
    } else this.octets(canonical(type, zones.rdata(record)))
    this.number(type)
  }

  private number(value: number): void {
    const one = Math.imul(this.one ^ value, ONE)
    const two = Math.imul(this.two ^ value, TWO)
    this.one = one ^ (one >>> 15)
    this.two = two ^ (two >>> 13)
  }

  private octets(octets: Uint8Array, from = 0, to = octets.length): void {
    let { one, two } = this
    for (let at = from; at < to; at++) {
      const octet = octets[at]!
      one = Math.imul(one ^ octet, ONE)
      one ^= one >>> 15
      two = Math.imul(two ^ octet, TWO)
      two ^= two >>> 13
    }
    this.one = one
    this.two = two
  }

  /** Takes a name’s hashes in. */
  private name(name: NameId): void {
    if (name !== ROOT && this.ones[name] === 0) this.learn(name)
    const { one, two } = this
    this.number(0)
    this.one ^= Math.imul(this.ones[name]! ^ one, TWO)
    this.two ^= Math.imul(this.twos[name]! ^ two, ONE)
  }

  private learn(name: NameId): void {
    const { one, two } = this
    const { tree } = this.zones
    const parent = tree.parent(name)
    if (parent !== ROOT && this.ones[parent] === 0) this.learn(parent)
    this.one = this.ones[parent]!
    this.two = this.twos[parent]!
    const length = tree.labelLength(name)
    this.number(length + 256)
    for (let i = 0; i < length; i++) this.number(tree.labelOctet(name, i))
    this.ones[name] = this.one || 1
    this.twos[name] = this.two
    this.one = one
    this.two = two
  }
}

/** Canonical data; of an SOA record without its serial. */
function canonical(type: number, data: Uint8Array): Uint8Array {
  const folded = canonicalRdata(type, data)
  return type === TYPE.SOA ? folded.slice().fill(0, folded.length - 20, folded.length - 16) : folded
}

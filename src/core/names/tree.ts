/**
 * The label tree: every name of all kept zones, and every name that their records point to, as a number.
 * A parent's number is always smaller than its child's, so one pass in ascending order goes from the root downwards.
 */

import { labelText, MAX_NAME, type Name } from './name.ts'
import { FOLD, type OctetSink, wider } from './octets.ts'

export type NameId = number

export const ROOT: NameId = 0
/** No name, no record: the value of an empty link. */
export const NONE = -1

/** What a label, or one above it, contains that a host name does not (RFC 1123 §2.1); kept so that rules need not read labels. */
export const ODD_SIGN = 1
export const ODD_COLON_OR_SLASH = 2
export const ODD_NOT_ASCII = 4
/** The label begins with a digit or holds a colon: it may be an address's first part. This one is not inherited. */
export const ODD_ADDRESS_LIKE = 8
/** Hyphens in places three and four (RFC 5891 §4.2.3.1). */
export const ODD_HYPHENS_3_4 = 16
/** A hyphen at the beginning or the end (RFC 1123 §2.1). */
export const ODD_EDGE_HYPHEN = 32
/** A “*”. */
export const ODD_STAR = 64
const INHERITED = ODD_STAR | ODD_SIGN | ODD_COLON_OR_SLASH | ODD_NOT_ASCII | ODD_HYPHENS_3_4 | ODD_EDGE_HYPHEN

const HYPHEN = 0x2d
const ODDNESS = new Uint8Array(256)
for (let i = 0; i < 256; i++) {
  const c = String.fromCharCode(i)
  ODDNESS[i] =
    i > 0x7e
      ? ODD_NOT_ASCII
      : /[a-z0-9-]/i.test(c)
        ? 0
        : c === ':'
          ? ODD_COLON_OR_SLASH | ODD_ADDRESS_LIKE
          : c === '/'
            ? ODD_COLON_OR_SLASH
            : c === '*'
              ? ODD_SIGN | ODD_STAR
              : ODD_SIGN
}

/** What a name has in the column of links, and how much that is. */
const PARENT = 0
const LABEL = 1
const HASH = 2
const FIRST = 3
const EACH = 4

function hashOf(parent: NameId, octets: Uint8Array, start: number, end: number): number {
  let hash = Math.imul(parent + 1, 0x9e3779b1)
  // Capitals and small letters differ in a bit that is left out.
  for (let i = start; i < end; i++) hash = Math.imul(hash ^ (octets[i]! & 0xdf), 0x01000193)
  hash ^= hash >>> 15
  hash = Math.imul(hash, 0x85ebca6b)
  return hash ^ (hash >>> 13)
}

export class NameTree {
  count = 1
  /** All ODD_* bits that any name has. */
  seenOddness = 0
  private capacity: number
  /** What looking a name up takes, side by side: its parent, where its label is in the pool, the hash of both, and its first child (none: 0). */
  private links: Int32Array
  private wireLengths: Uint8Array
  private odd: Uint8Array
  private pool: Uint8Array
  private poolLength = 1
  /** Names by their hashes; 0 where none is. A first child is found by the link to it, and is not in here: names with one child are many. */
  private table: Int32Array
  private inTable = 0

  constructor(expected = 64) {
    this.capacity = Math.max(64, expected)
    this.links = new Int32Array(this.capacity * EACH)
    this.links[PARENT] = NONE
    this.wireLengths = new Uint8Array(this.capacity)
    this.wireLengths[0] = 1
    this.odd = new Uint8Array(this.capacity)
    this.pool = new Uint8Array(this.capacity * 8)
    // Less than half of the names come into it, as a rule: one as small as that is looked into faster.
    let slots = 256
    while (slots < this.capacity / 2) slots *= 2
    this.table = new Int32Array(slots)
  }

  /**
   * The name below `parent` whose label is `octets` from `start` up to `end` (already unescaped), made where it is not there yet in the spelling first met.
   * Returns NONE if the name would pass 255 octets.
   */
  child(parent: NameId, octets: Uint8Array, start: number, end: number): NameId {
    const first = this.links[parent * EACH + FIRST]!
    if (first !== 0 && this.hasLabel(first, octets, start, end)) return first
    const length = end - start
    const wireLength = this.wireLengths[parent]! + length + 1
    let hash = 0
    let slot = 0
    if (first !== 0) {
      hash = hashOf(parent, octets, start, end)
      slot = this.slot(hash, parent, octets, start, end)
      const found = this.table[slot]!
      if (found !== 0) return found
    }
    if (wireLength > MAX_NAME) return NONE
    if (this.count === this.capacity) this.grow()
    if (this.poolLength + length + 1 > this.pool.length) this.pool = wider(this.pool, this.pool.length * 2)
    const id = this.count++
    const { links } = this
    if (first === 0) links[parent * EACH + FIRST] = id
    else {
      links[id * EACH + HASH] = hash
      this.table[slot] = id
      if (++this.inTable * 2 > this.table.length) this.widenTable()
    }
    links[id * EACH + PARENT] = parent
    links[id * EACH + LABEL] = this.poolLength
    this.wireLengths[id] = wireLength
    this.pool[this.poolLength++] = length
    let odd = this.odd[parent]! & INHERITED
    for (let i = start; i < end; i++) {
      odd |= ODDNESS[octets[i]!]!
      this.pool[this.poolLength++] = octets[i]!
    }
    if (octets[start]! >= 0x30 && octets[start]! <= 0x39) odd |= ODD_ADDRESS_LIKE
    if (octets[start] === HYPHEN || octets[end - 1] === HYPHEN) odd |= ODD_EDGE_HYPHEN
    if (length > 3 && octets[start + 2] === HYPHEN && octets[start + 3] === HYPHEN) odd |= ODD_HYPHENS_3_4
    this.odd[id] = odd
    this.seenOddness |= odd
    return id
  }

  /** The name below `parent` with that label, or NONE. */
  find(parent: NameId, octets: Uint8Array, start: number, end: number): NameId {
    const first = this.links[parent * EACH + FIRST]!
    if (first === 0) return NONE
    if (this.hasLabel(first, octets, start, end)) return first
    return this.table[this.slot(hashOf(parent, octets, start, end), parent, octets, start, end)] || NONE
  }

  /** The id of an uncompressed wire name, or NONE if it is not in the tree. */
  findWire(wire: Uint8Array, at = 0): NameId {
    const starts: number[] = []
    for (let i = at; wire[i] !== 0; i += wire[i]! + 1) starts.push(i)
    let id: NameId = ROOT
    for (let k = starts.length - 1; k >= 0 && id !== NONE; k--)
      id = this.find(id, wire, starts[k]! + 1, starts[k]! + 1 + wire[starts[k]!]!)
    return id
  }

  /** The id of an uncompressed wire name, made where it is not there yet. */
  internWire(wire: Uint8Array, at = 0): NameId {
    const starts: number[] = []
    for (let i = at; wire[i] !== 0; i += wire[i]! + 1) starts.push(i)
    let id: NameId = ROOT
    for (let k = starts.length - 1; k >= 0; k--)
      id = this.child(id, wire, starts[k]! + 1, starts[k]! + 1 + wire[starts[k]!]!)
    return id
  }

  parent(id: NameId): NameId {
    return this.links[id * EACH + PARENT]!
  }
  /** Octets of the name on the wire, the root's zero included. */
  wireLength(id: NameId): number {
    return this.wireLengths[id]!
  }
  /** ODD_* bits of the name. */
  oddness(id: NameId): number {
    return this.odd[id]!
  }
  /** The leftmost label's octets, in the spelling first met. */
  label(id: NameId): Uint8Array {
    const at = this.links[id * EACH + LABEL]!
    return this.pool.subarray(at + 1, at + 1 + this.pool[at]!)
  }
  /** Octets of the leftmost label. */
  labelLength(id: NameId): number {
    return this.pool[this.links[id * EACH + LABEL]!]!
  }
  /** One octet of the leftmost label, capitals folded; beyond its end, whatever. */
  labelOctet(id: NameId, at: number): number {
    return FOLD[this.pool[this.links[id * EACH + LABEL]! + 1 + at]!]!
  }
  /** The leftmost label as text, capitals folded. */
  labelText(id: NameId): string {
    const at = this.links[id * EACH + LABEL]!
    return labelText(this.pool, at + 1, at + 1 + this.pool[at]!).toLowerCase()
  }
  /** Whether the leftmost label is this one, case set aside. */
  isLabel(id: NameId, label: Uint8Array): boolean {
    return this.hasLabel(id, label, 0, label.length)
  }
  isWildcard(id: NameId): boolean {
    const at = this.links[id * EACH + LABEL]!
    return this.pool[at] === 1 && this.pool[at + 1] === 0x2a
  }
  isAtOrBelow(id: NameId, ancestor: NameId): boolean {
    let here = id
    while (here > ancestor) here = this.links[here * EACH + PARENT]!
    return here === ancestor
  }
  /** The name as text, absolute, in the spelling first met. */
  text(id: NameId): Name {
    if (id === ROOT) return '.'
    let text = ''
    for (let here = id; here !== ROOT; here = this.links[here * EACH + PARENT]!) {
      const at = this.links[here * EACH + LABEL]!
      text += labelText(this.pool, at + 1, at + 1 + this.pool[at]!) + '.'
    }
    return text
  }
  /** Appends the name's wire octets, the root's zero included. */
  putWire(id: NameId, out: OctetSink): void {
    out.room(this.wireLengths[id]!)
    for (let here = id; here !== ROOT; here = this.links[here * EACH + PARENT]!) {
      const at = this.links[here * EACH + LABEL]!
      out.put(this.pool, at, at + 1 + this.pool[at]!)
    }
    out.u8(0)
  }

  private slot(hash: number, parent: NameId, octets: Uint8Array, start: number, end: number): number {
    const { table, links } = this
    const mask = table.length - 1
    let slot = hash & mask
    for (;;) {
      const id = table[slot]!
      if (
        id === 0 ||
        (links[id * EACH + HASH] === hash &&
          links[id * EACH + PARENT] === parent &&
          this.hasLabel(id, octets, start, end))
      )
        return slot
      slot = (slot + 1) & mask
    }
  }

  private hasLabel(id: NameId, octets: Uint8Array, start: number, end: number): boolean {
    const { pool } = this
    const at = this.links[id * EACH + LABEL]! + 1
    const length = end - start
    if (pool[at - 1] !== length) return false
    for (let i = 0; i < length; i++) {
      const one = pool[at + i]!
      const other = octets[start + i]!
      if (one !== other && FOLD[one] !== FOLD[other]) return false
    }
    return true
  }

  private grow(): void {
    this.capacity *= 2
    this.links = wider(this.links, this.capacity * EACH)
    this.wireLengths = wider(this.wireLengths, this.capacity)
    this.odd = wider(this.odd, this.capacity)
  }

  private widenTable(): void {
    const table = new Int32Array(this.table.length * 2)
    const mask = table.length - 1
    for (let i = 0; i < this.table.length; i++) {
      const id = this.table[i]!
      if (id === 0) continue
      let slot = this.links[id * EACH + HASH]! & mask
      while (table[slot] !== 0) slot = (slot + 1) & mask
      table[slot] = id
    }
    this.table = table
  }
}

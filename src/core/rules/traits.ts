/**
 * What a quick look at the columns says of a set, a record or a name, as bits. Rules state which of them they look for, and are offered nothing else:
 * of a million sound records, hardly one is offered to any rule.
 */
import { locate, MISSING, UNKNOWN } from '../knowledge/answer.ts'
import { type RecordId, TARGET_RELATIVE, type Zone, type Zones } from '../model/zones.ts'
import { specialNetwork } from '../names/address-kinds.ts'
import { u16At } from '../names/octets.ts'
import { type NameId, NONE, ODD_EDGE_HYPHEN, ODD_SIGN, ROOT } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'
import { hasStrayStar, isSelector } from './look.ts'
import type { SetView } from './rule.ts'
import { portsOf } from './services.ts'
import { hasSpf } from './text.ts'

/** Whatever there is. */
export const ANY = ~0
/** Of a set: how many records it has, and whether its owner has others. */
export const SINGLE = 1
export const SEVERAL = 1 << 1
export const CROWDED = 1 << 2
/** Its owner: a wildcard, a name that begins with an underscore, the zone's top, no host's name. */
export const WILDCARD = 1 << 3
export const SCOPED = 1 << 4
export const AT_TOP = 1 << 5
export const ODD_OWNER = 1 << 6
/** One of its targets: is no plain host name, is the root, is an alias, does not exist or has no address, is outside what is known, is a zone's top, has IPv6 alone. */
export const ODD_TARGET = 1 << 7
export const NULL_TARGET = 1 << 8
export const ALIAS_TARGET = 1 << 9
export const LOST_TARGET = 1 << 10
export const OUTSIDE_TARGET = 1 << 11
export const TOP_TARGET = 1 << 12
export const V6_TARGET = 1 << 13
/** An address of it is in a network with a purpose of its own other than documentation; of a target, in one that nobody outside can reach. */
export const SPECIAL = 1 << 14
/** SRV: the service is none of the table, or its port another, or its owner is not made as usual; the target is not the host that the owner is below. */
export const ODD_SERVICE = 1 << 15
export const SERVED_ELSEWHERE = 1 << 16
/** TXT: several strings, octets over 127, control characters, a quote in front, a domain named by SPF, signs that a placeholder has. */
export const SEVERAL_STRINGS = 1 << 17
export const NOT_ASCII = 1 << 18
export const CONTROL = 1 << 19
export const QUOTE_FIRST = 1 << 20
export const NAMES_DOMAIN = 1 << 21
export const MAYBE_PLACEHOLDER = 1 << 22
export const UNREACHABLE_TARGET = 1 << 23
export const DOCUMENTATION = 1 << 24
/** TXT: begins as an SPF record does, or nearly; as a key or a policy does. TXT and CNAME: the owner is a selector. */
export const SPF_TEXT = 1 << 25
export const TAGGED_TEXT = 1 << 26
export const SELECTOR = 1 << 27
/** MX: the owner has no SPF record; it has one. */
export const NO_SPF = 1 << 28
export const WITH_SPF = 1 << 29

/** Of a record: below a cut or a DNAME, or not in the zone that its name is in; TTL of 0 or over a day; a relative target that does not exist; a “*” in its owner that makes no wildcard; over 1000 octets of data. */
export const COVERED = 1
export const ODD_TTL = 1 << 1
export const VAIN_TARGET = 1 << 2
export const STRAY_STAR = 1 << 3
export const LARGE = 1 << 4

const FEW = 64

/** Finds the bits; one for each walk. */
export class Traits {
  private readonly zones: Zones
  /** Targets seen lately: most exchanges are the same few hosts. */
  private readonly lately = new Int32Array(FEW).fill(NONE)
  private readonly latelyBits = new Int32Array(FEW)
  private service = new Uint8Array(0)
  private ports: readonly number[] | undefined
  /** The owner of the record looked at last, its zone, and what it says of its records. */
  private owner: NameId = NONE
  private zone: Zone | undefined
  private ownerBits = 0

  constructor(zones: Zones) {
    this.zones = zones
  }

  ofSet(set: SetView, crowded: boolean): number {
    const { zones } = this
    const { tree } = zones
    const { owner, type, records } = set
    let bits =
      (records.length === 1 ? SINGLE : SEVERAL) | (crowded ? CROWDED : 0) | (owner === set.zone.apex ? AT_TOP : 0)
    if (tree.labelOctet(owner, 0) === 0x5f) bits |= SCOPED
    else if (tree.isWildcard(owner)) bits |= WILDCARD
    if (tree.oddness(owner) & (ODD_SIGN | ODD_EDGE_HYPHEN)) bits |= ODD_OWNER
    switch (type) {
      case TYPE.A:
      case TYPE.AAAA:
        for (let i = 0; i < records.length; i++) {
          const network = specialNetwork(zones.data.octets, zones.dataStart(records[i]!), zones.dataOctets(records[i]!))
          if (network) bits |= network.kind === 'documentation' ? DOCUMENTATION : SPECIAL
        }
        return bits
      case TYPE.TXT:
        if (isSelector(zones, owner)) bits |= SELECTOR
        for (let i = 0; i < records.length; i++)
          bits |= ofText(zones.data.octets, zones.dataStart(records[i]!), zones.dataOctets(records[i]!))
        return bits
      case TYPE.SRV:
        return bits | this.ofService(set) | this.ofTargets(records, type)
      case TYPE.CNAME:
        return bits | (isSelector(zones, owner) ? SELECTOR : 0) | this.ofTargets(records, type)
      case TYPE.MX:
        return bits | (hasSpf(zones, owner) ? WITH_SPF : NO_SPF) | this.ofTargets(records, type)
      case TYPE.NS:
      case TYPE.PTR:
        return bits | this.ofTargets(records, type)
      default:
        return bits
    }
  }

  private ofTargets(records: readonly RecordId[], type: number): number {
    const { zones, lately } = this
    const asHost = type !== TYPE.CNAME && type !== TYPE.PTR
    let bits = 0
    for (let i = 0; i < records.length; i++) {
      const target = zones.target(records[i]!)
      const slot = target & (FEW - 1)
      if (!asHost) bits |= this.ofTarget(target, false)
      else {
        if (lately[slot] !== target) {
          this.latelyBits[slot] = this.ofTarget(target, true)
          lately[slot] = target
        }
        bits |= this.latelyBits[slot]!
      }
    }
    return bits
  }

  private ofTarget(target: NameId, asHost: boolean): number {
    const { zones } = this
    if (target === ROOT) return NULL_TARGET
    let bits = zones.tree.oddness(target) !== 0 ? ODD_TARGET : 0
    const node = locate(zones, target)
    if (node === MISSING) return bits | LOST_TARGET
    // A name that a DNAME rewrites is an alias, and may lead to nothing.
    if (node === UNKNOWN)
      return bits | (zones.dnameAbove(target) === NONE ? OUTSIDE_TARGET : ALIAS_TARGET | LOST_TARGET)
    if (zones.hasCname(node)) return bits | ALIAS_TARGET
    if (!asHost) return bits
    const zone = zones.zoneOf(node)
    if (zone?.apex === node) bits |= TOP_TARGET
    let families = 0
    for (let record = zones.first(node); record !== NONE; record = zones.next(record)) {
      const type = zones.type(record)
      if (type !== TYPE.A && type !== TYPE.AAAA) continue
      families |= type === TYPE.A ? 1 : 2
      if (specialNetwork(zones.data.octets, zones.dataStart(record), zones.dataOctets(record))?.unreachable)
        bits |= UNREACHABLE_TARGET
    }
    return bits | (families === 0 ? LOST_TARGET : families === 2 ? V6_TARGET : 0)
  }

  private ofService({ owner, zone, records }: SetView): number {
    const { zones } = this
    const { tree } = zones
    if (!tree.isLabel(owner, this.service)) {
      this.service = tree.label(owner).slice()
      this.ports = this.service[0] === 0x5f ? portsOf(tree.labelText(owner).slice(1)) : undefined
    }
    const parent = tree.parent(owner)
    const usual =
      this.ports !== undefined && !CLEAR.has(this.ports) && (tree.isLabel(parent, TCP) || tree.isLabel(parent, UDP))
    let bits = usual ? 0 : ODD_SERVICE
    const host = tree.parent(parent)
    for (let i = 0; i < records.length; i++) {
      const port = u16At(zones.data.octets, zones.dataStart(records[i]!) + 4)
      if (!this.ports?.includes(port)) bits |= ODD_SERVICE
      if (host !== zone.apex && zones.target(records[i]!) !== host) bits |= SERVED_ELSEWHERE
    }
    return bits
  }

  /** The bits of a record; the walk is over all of them, so this looks at nothing but columns. */
  ofRecord(record: RecordId): number {
    const { zones } = this
    const owner = zones.owner(record)
    const ttl = zones.ttl(record)
    if (owner !== this.owner) {
      // Records of one name mostly follow one another.
      this.owner = owner
      this.zone = zones.zoneOf(owner)
      this.ownerBits = (zones.isCovered(owner) ? COVERED : 0) | (hasStrayStar(zones.tree, owner) ? STRAY_STAR : 0)
    }
    let bits = this.ownerBits
    if (ttl === 0 || ttl > DAY) bits |= ODD_TTL
    if (zones.dataOctets(record) > 1000) bits |= LARGE
    if (this.zone !== zones.zoneOfRecord(record)) bits |= COVERED
    if (zones.flags(record) & TARGET_RELATIVE && !zones.exists(zones.target(record))) bits |= VAIN_TARGET
    return bits
  }
}

const DAY = 86_400
const TCP = Uint8Array.from('_tcp', (sign) => sign.charCodeAt(0))
const UDP = Uint8Array.from('_udp', (sign) => sign.charCodeAt(0))
/** Ports of services beside which another one is expected. */
const CLEAR = new Set(['imap', 'pop3', 'submission'].map(portsOf))

/** So many octets of a text say what it is: `v=DMARC1`. */
const VERSION = 8

/** The bits of a text's data. A placeholder has `<`, `{`, `%s`, `you`, `.x`, `le.`, `TO`, `FI`, `CH` or `dom` in it. */
function ofText(data: Uint8Array, at: number, length: number): number {
  const end = at + length
  let bits = data[at]! + 1 < length ? SEVERAL_STRINGS : 0
  if (data[at]! > 0) {
    const first = data[at + 1]! | 0x20
    if (first === 0x22) bits |= QUOTE_FIRST
    const third = data[at + 3]! | 0x20
    if (first === 0x73 || (first === 0x76 && third === 0x73)) bits |= SPF_TEXT
    else if (first === 0x76) bits |= data[at + 2] === 0x3d ? TAGGED_TEXT : SPF_TEXT | TAGGED_TEXT
    // A space or a quote in front, or a tag of one letter.
    else if (first === 0x20 || first === 0x22 || (data[at]! > 1 && data[at + 2] === 0x3d))
      bits |= SPF_TEXT | TAGGED_TEXT
  }
  // What a text is may be cut between its first strings.
  if (data[at]! < VERSION && data[at]! + 1 < length) bits |= SPF_TEXT | TAGGED_TEXT
  let border = at
  const spf =
    data[at]! < 3 || ((data[at + 1]! | 0x20) === 0x76 && data[at + 2] === 0x3d && (data[at + 3]! | 0x20) === 0x73)
  for (let i = at; i < end; i++) {
    if (i === border) {
      border += data[i]! + 1
      continue
    }
    const octet = data[i]!
    const watched = WATCHED[octet]!
    if (watched === 0) continue
    if (watched !== 1) bits |= watched
    else if (octet === 0x3a || octet === 0x3d) {
      const before = data[i - 1]! | 0x20
      if (spf && (octet === 0x3a ? before === 0x65 || before === 0x61 || before === 0x78 : before === 0x74))
        bits |= NAMES_DOMAIN
    } else if (octet === 0x3c || octet === 0x7b) bits |= MAYBE_PLACEHOLDER
    else {
      const next = i + 1 < end ? data[i + 1]! : 0
      if (
        octet === 0x25
          ? next === 0x73
          : octet === 0x2e
            ? (next | 0x20) === 0x78 || (data[i - 1] === 0x65 && data[i - 2] === 0x6c)
            : SECOND[octet & 0x1f] === (next | 0x20)
      )
        bits |= MAYBE_PLACEHOLDER
    }
  }
  return bits
}

/** Octets at which a text is looked at more closely (1), and those that are bits by themselves. */
const WATCHED = new Int32Array(256)
for (let i = 0; i < 256; i++)
  WATCHED[i] =
    i < 0x20 || i === 0x7f ? CONTROL : i > 0x7f ? NOT_ASCII : ':=<{%.YyTFCd'.includes(String.fromCharCode(i)) ? 1 : 0
/** What follows y, T, F, C, d, by the letter's place in the alphabet. */
const SECOND: number[] = []
for (const pair of ['yo', 'to', 'fi', 'ch', 'do']) SECOND[pair.charCodeAt(0) & 0x1f] = pair.charCodeAt(1)

/** A primary server that takes dynamic updates (RFC 2136) from whoever reaches it: for what is played on loopback. */
import { setKey, setsOf, soaOf, without, withSerial } from '../core/change/difference.ts'
import { readZone } from '../core/file/reader.ts'
import { serialAfter } from '../core/file/serial.ts'
import { emptyMessage, type Message, type MessageRecord, UPDATE } from '../core/message/message.ts'
import { type RecordSet, type Zone, Zones } from '../core/model/zones.ts'
import { foldName, isAtOrBelow, type Name } from '../core/names/name.ts'
import { octetsOf } from '../core/names/octets.ts'
import { NONE } from '../core/names/tree.ts'
import { rdataText } from '../core/records/rdata.ts'
import { CLASS_ANY, CLASS_IN, CLASS_NONE, TYPE, typeText } from '../core/records/types.ts'
import { soa } from '../core/records/views.ts'
import { answering, type Responder } from './sockets.ts'

const RCODE = { NOERROR: 0, FORMERR: 1, NXDOMAIN: 3, YXDOMAIN: 6, YXRRSET: 7, NXRRSET: 8, NOTAUTH: 9, NOTZONE: 10 }

/** Answers from its zones, as they are after all updates so far. */
export class Primary {
  zones: Zones

  constructor(zones: Zones) {
    this.zones = zones
  }

  readonly respond: Responder = (query, id, udp) => {
    if ('garbled' in query || query.response || query.opcode !== UPDATE) return answering(this.zones)(query, id, udp)
    return { ...emptyMessage(query.id), response: true, opcode: UPDATE, rcode: this.update(query) }
  }

  /** All of the message, or nothing (RFC 2136 §3). */
  private update({ questions, answers: prerequisites, authority: updates }: Message): number {
    const [asked, ...more] = questions
    if (!asked || more.length > 0 || asked.type !== TYPE.SOA || asked.class !== CLASS_IN) return RCODE.FORMERR
    const zone = this.zones.zones.find(({ name }) => foldName(name) === foldName(asked.name))
    if (!zone || zone.soa === NONE) return RCODE.NOTAUTH
    const wrong = updates.find((each) => !isWellFormed(each) || !isAtOrBelow(each.owner, zone.name))
    if (wrong) return isAtOrBelow(wrong.owner, zone.name) ? RCODE.FORMERR : RCODE.NOTZONE
    const state = new State(this.zones, zone)
    const refused = state.unmet(prerequisites)
    if (refused !== RCODE.NOERROR) return refused
    for (const each of updates) state.take(each)
    if (state.isChanged) this.zones = state.whole(this.zones)
    return RCODE.NOERROR
  }
}

/** Whether an update says one of the four things that there are to say (RFC 2136 §3.4.1). */
function isWellFormed({ class: klass, type, ttl, data }: MessageRecord): boolean {
  if (klass === CLASS_IN) return type < 128
  if (klass === CLASS_ANY) return ttl === 0 && data.length === 0
  return klass === CLASS_NONE && ttl === 0 && type < 128
}

/** One zone, on its way to the next state. */
class State {
  isChanged = false
  private readonly sets: Map<string, RecordSet>
  private soa: RecordSet
  private readonly zone: Zone

  constructor(zones: Zones, zone: Zone) {
    this.zone = zone
    this.sets = setsOf(zones, zone)
    this.soa = soaOf(zones, zone)!
  }

  private isApex(owner: Name): boolean {
    return foldName(owner) === foldName(this.zone.name)
  }

  private at(owner: Name): RecordSet[] {
    const sets = [...this.sets.values()].filter((set) => foldName(set.owner) === foldName(owner))
    return this.isApex(owner) ? [this.soa, ...sets] : sets
  }

  /** The code for a prerequisite that is not so (RFC 2136 §3.2.5). */
  unmet(prerequisites: readonly MessageRecord[]): number {
    const stated = new Map<string, RecordSet>()
    for (const { owner, type, class: klass, ttl, data } of prerequisites) {
      if (ttl !== 0) return RCODE.FORMERR
      if (!isAtOrBelow(owner, this.zone.name)) return RCODE.NOTZONE
      const there = this.at(owner)
      const isThere = type === TYPE.ANY ? there.length > 0 : there.some((set) => set.type === type)
      if (klass === CLASS_ANY && !isThere) return type === TYPE.ANY ? RCODE.NXDOMAIN : RCODE.NXRRSET
      if (klass === CLASS_NONE && isThere) return type === TYPE.ANY ? RCODE.YXDOMAIN : RCODE.YXRRSET
      if (klass !== CLASS_IN) continue
      const set = stated.get(setKey({ owner, type })) ?? { owner, type, ttl: 0, data: [] }
      stated.set(setKey({ owner, type }), { ...set, data: [...set.data, data] })
    }
    const isAsStated = (set: RecordSet): boolean => {
      const there = this.at(set.owner).find(({ type }) => type === set.type)
      return there !== undefined && without(there, set).length === 0 && without(set, there).length === 0
    }
    return [...stated.values()].every(isAsStated) ? RCODE.NOERROR : RCODE.NXRRSET
  }

  /** One update (RFC 2136 §3.4.2). What must not be is passed over in silence, as the standard has it. */
  take({ owner, type, class: klass, ttl, data }: MessageRecord): void {
    if (klass === CLASS_IN) this.add({ owner, type, ttl, data: [data] })
    else this.drop({ owner, type, class: klass, data })
  }

  private drop({ owner, type, class: klass, data }: Omit<MessageRecord, 'ttl'>): void {
    const isKept = (set: RecordSet): boolean => this.isApex(owner) && (set.type === TYPE.SOA || set.type === TYPE.NS)
    for (const set of this.at(owner)) {
      if (set.type === TYPE.SOA || (type !== TYPE.ANY && type !== set.type)) continue
      if (klass === CLASS_ANY) {
        if (!isKept(set)) this.put({ ...set, data: [] })
        continue
      }
      const left = without(set, { ...set, data: [data] })
      if (left.length < set.data.length && !(isKept(set) && left.length === 0)) this.put({ ...set, data: left })
    }
  }

  private add(set: RecordSet): void {
    const { owner, type, ttl, data } = set
    if (type === TYPE.SOA) {
      const isLater = serialAfter(soa(data[0]!).serial, soa(this.soa.data[0]!).serial)
      if (this.isApex(owner) && isLater) this.put(set)
      return
    }
    const there = this.at(owner)
    const isInTheWay = (other: RecordSet): boolean => (other.type === TYPE.CNAME) !== (type === TYPE.CNAME)
    if (there.some(isInTheWay)) return
    const former = type === TYPE.CNAME ? undefined : there.find((each) => each.type === type)
    this.put({ owner, type, ttl, data: former ? [...without(former, set), ...data] : data })
  }

  private put(set: RecordSet): void {
    this.isChanged = true
    if (set.type === TYPE.SOA) this.soa = set
    else if (set.data.length === 0) this.sets.delete(setKey(set))
    else this.sets.set(setKey(set), set)
  }

  /** All zones, this one in its new state, with a serial of its own where it was given none. */
  whole(zones: Zones): Zones {
    const before = soa(soaOf(zones, this.zone)!.data[0]!).serial
    const { serial } = soa(this.soa.data[0]!)
    const own = serial === before ? withSerial(this.soa, (before + 1) >>> 0) : this.soa
    const made = new Zones()
    for (const zone of zones.zones) {
      const sets =
        zone === this.zone ? [own, ...this.sets.values()] : [soaOf(zones, zone)!, ...setsOf(zones, zone).values()]
      const text = sets.flatMap(({ owner, type, ttl, data }) =>
        data.map((each) => `${owner} ${ttl} IN ${typeText(type)} ${rdataText(type, each)}\n`),
      )
      readZone(made, made.addSource(made.addZone(zone.name, zone.file, zone), zone.file, octetsOf(text.join(''))))
    }
    made.seal()
    return made
  }
}

/**
 * Finds out what a zone holds by asking its servers: for the usual names, for those that its records lead to, and along NSEC records where it is signed with these
 * (RFC 4034 §4). What nobody asked for stays unknown.
 */
import type { Message, MessageRecord } from '../message/message.ts'
import { foldName, isAtOrBelow, labelsOf, type Name, wireToName } from '../names/name.ts'
import { fieldPlaces, rdataFields, rdataKey } from '../records/rdata.ts'
import { parseType, rowOf, TYPE, TYPES_OF_SIGNING } from '../records/types.ts'
import type { Guess } from './usual-names.ts'

/** One server of the zone: its answer, or nothing where none came. */
export type AskServer = (name: Name, type: number) => Promise<Message | undefined>

export interface Discovering {
  zone: Name
  guesses: readonly Guess[]
  /** Asked in turn: what one does not answer with authority, the next one is asked for. */
  servers: readonly AskServer[]
  /** A label that cannot exist. */
  fresh: string
  /** So many more questions are to be asked; one has been. */
  expect?(questions: number): void
  progress?(): void
}

export interface Discovered {
  /** Of the zone itself, its wildcards and its delegations with their glue; each once. */
  records: MessageRecord[]
  /** Names that no server answered for. */
  unknown: Name[]
  /** Names that were asked for. */
  asked: number
  /** Owners of wildcards, which answer for names that were not asked for too. */
  wildcards: Name[]
  /** How the zone’s NSEC records were followed: to the end, not at all since there are none, or not since they tell no names (RFC 4470). */
  walked: 'whole' | 'no' | 'hidden'
  /** Whether the zone has keys for signing. */
  signed: boolean
}

/** Every type that is asked for at a name that exists. */
const ALL =
  'A AAAA CNAME MX TXT SRV NS CAA TLSA HTTPS SVCB DNAME PTR SSHFP NAPTR URI LOC HINFO RP OPENPGPKEY SMIMEA CERT SPF'
    .split(' ')
    .map((mnemonic) => parseType(mnemonic)!)
/** Names that are asked for at a time. */
const WORKERS = 24
/** A chain of more NSEC records than this is not followed to its end. */
const STEPS = 100_000

/** Undefined where no server answers for the zone’s SOA record with authority. */
export async function discover(discovering: Discovering): Promise<Discovered | undefined> {
  const search = new Search(discovering)
  return (await search.apex()) ? search.all() : undefined
}

/** The sets at a name, by type. */
type Sets = Map<number, MessageRecord[]>

class Search {
  private readonly given: Discovering
  private readonly zone: Name
  private readonly queue: Guess[] = []
  private readonly seen = new Set<Name>()
  private readonly real = new Map<Name, Sets>()
  /** Records of delegations, and of aliases of whole subtrees. */
  private readonly beside = new Map<string, MessageRecord>()
  private readonly unknown = new Set<Name>()
  /** What a name that does not exist is answered with, by the name above it. */
  private readonly wild = new Map<Name, Promise<Sets>>()
  private readonly pending: Promise<void>[] = []
  private walked: Discovered['walked'] = 'no'

  constructor(given: Discovering) {
    this.given = given
    this.zone = foldName(given.zone)
  }

  /** Asks for the apex; false where nobody answers for it. */
  async apex(): Promise<boolean> {
    const { zone } = this
    this.seen.add(zone)
    const soa = await this.ask(zone, TYPE.SOA)
    if (!soa || !recordsOf(soa, zone, TYPE.SOA).length) return false
    const sets = await this.setsAt(zone, [TYPE.SOA, ...ALL])
    this.real.set(zone, sets)
    this.follow(sets)
    return true
  }

  async all(): Promise<Discovered> {
    const keys = await this.ask(this.zone, TYPE.DNSKEY)
    await this.walk()
    for (const guess of this.given.guesses) this.add(guess)
    await this.each()
    const wildcards = await this.wildcards()
    // Wildcards lead somewhere, too.
    await this.each()
    const records = new Map(this.beside)
    for (const sets of this.real.values())
      for (const set of sets.values()) for (const record of set) records.set(keyOf(record), record)
    return {
      records: [...records.values()],
      unknown: [...this.unknown].sort(),
      asked: this.seen.size,
      wildcards,
      walked: this.walked,
      signed: keys !== undefined && recordsOf(keys, this.zone, TYPE.DNSKEY).length > 0,
    }
  }

  /** Works off the names that are to be asked for; some are added on the way. */
  private async each(): Promise<void> {
    let busy = 0
    await new Promise<void>((resolve, reject) => {
      const go = (): void => {
        if (busy === 0 && this.queue.length === 0) resolve()
        while (busy < WORKERS && this.queue.length > 0) {
          busy++
          this.look(this.queue.shift()!).then(() => {
            busy--
            this.given.progress?.()
            go()
          }, reject)
        }
      }
      go()
    })
  }

  private add({ name, types, exists }: Guess): void {
    const folded = foldName(name)
    if (!isAtOrBelow(folded, this.zone) || this.seen.has(folded) || labelsOf(folded)[0] === '*') return
    this.seen.add(folded)
    this.queue.push({ name: folded, types, exists })
    this.given.expect?.(1)
  }

  /** Asks for a name: first for what would be there, and for all types where it is real. */
  private async look({ name, types, exists }: Guess): Promise<void> {
    const first = await this.ask(name, types[0]!)
    if (!first) {
      this.unknown.add(name)
      return
    }
    if (this.isElsewhere(first, name)) return
    if (first.rcode === NXDOMAIN && first.answers.length === 0) return
    const some = await this.setsAt(name, types, first)
    const wild = exists ? undefined : await this.wildAt(aboveOf(name))
    if (
      wild &&
      wild.size > 0 &&
      types.every((type) => sameSet(some.get(type) ?? some.get(TYPE.CNAME), wild.get(type) ?? wild.get(TYPE.CNAME)))
    )
      return
    const sets = await this.setsAt(name, ALL)
    for (const [type, set] of some) sets.set(type, set)
    if (sets.size === 0) return
    this.real.set(name, sets)
    this.follow(sets)
  }

  /** Whether the answer says that the name is below a delegation, or below an alias of a whole subtree (RFC 6672). Notes what it says of that. */
  private isElsewhere(message: Message, name: Name): boolean {
    const dname = message.answers.find(({ type, owner }) => type === TYPE.DNAME && foldName(owner) !== name)
    if (dname) this.note(dname)
    const cut = cutIn(message, this.zone)
    if (cut === undefined) return dname !== undefined
    const isNew = !message.authority.some((record) => this.beside.has(keyOf(record)))
    const servers = message.authority.filter(({ type, owner }) => type === TYPE.NS && foldName(owner) === cut)
    for (const record of servers) this.note(record)
    const hosts = new Set(servers.map(({ data }) => foldName(wireToName(data))))
    for (const record of message.additional)
      if (hosts.has(foldName(record.owner)) && isAtOrBelow(record.owner, cut)) this.note(record)
    if (isNew) this.delegated(cut)
    return true
  }

  /** DS records of a delegation are the parent’s (RFC 4035 §3.1.4.1). */
  private delegated(cut: Name): void {
    this.pending.push(
      this.ask(cut, TYPE.DS).then((message) => {
        for (const record of message ? recordsOf(message, cut, TYPE.DS) : []) this.note(record)
      }),
    )
  }

  private note(record: MessageRecord): void {
    this.beside.set(keyOf(record), record)
  }

  /** The sets of these types at a name; an alias there stands for all of them. */
  private async setsAt(name: Name, types: readonly number[], first?: Message): Promise<Sets> {
    const sets: Sets = new Map()
    await Promise.all(
      types.map(async (type, i) => {
        const message = i === 0 && first ? first : await this.ask(name, type)
        if (!message) {
          this.unknown.add(name)
          return
        }
        for (const each of [type, TYPE.CNAME]) {
          const records = recordsOf(message, name, each)
          if (records.length > 0) sets.set(each, records)
        }
      }),
    )
    return sets
  }

  /** Names inside the zone that records lead to. */
  private follow(sets: Sets): void {
    for (const [type, set] of sets) {
      const row = rowOf(type)
      if (!row || type === TYPE.SOA) continue
      for (const { data } of set)
        for (const [i, place] of (fieldPlaces(row, data) ?? []).entries())
          if (row.fields[i]!.kind.isName)
            this.add({ name: wireToName(data, place[0]), types: [TYPE.A, TYPE.AAAA, TYPE.TXT] })
    }
  }

  /** What a name that cannot exist is answered with below this one. */
  private wildAt(above: Name): Promise<Sets> {
    let sets = this.wild.get(above)
    if (!sets) {
      const name = `${this.given.fresh}.${above === '.' ? '' : above}`
      sets = this.ask(name, TYPE.A).then((first) =>
        !first || first.rcode === NXDOMAIN || cutIn(first, this.zone) !== undefined
          ? new Map()
          : this.setsAt(name, ALL, first),
      )
      this.wild.set(above, sets)
    }
    return sets
  }

  /** The wildcards that answered for names that do not exist. Returns their owners. */
  private async wildcards(): Promise<Name[]> {
    await Promise.all(this.pending)
    const aboves = new Set([
      this.zone,
      ...this.wild.keys(),
      ...[...this.real.keys()].filter((name) => name !== this.zone).map(aboveOf),
    ])
    const owners: Name[] = []
    for (const above of [...aboves].sort((a, b) => a.length - b.length)) {
      const sets = await this.wildAt(above)
      if (sets.size === 0) continue
      // Below a name that does not exist, it is the wildcard further up that answers.
      const exists = above === this.zone || [...this.real.keys()].some((name) => isAtOrBelow(name, above))
      const higher = above === this.zone ? undefined : await this.wildAt(aboveOf(above))
      if (!exists && higher && sameSets(sets, higher)) continue
      const owner = `*.${above === '.' ? '' : above}`
      owners.push(owner)
      const there: Sets = new Map([...sets].map(([type, set]) => [type, set.map((record) => ({ ...record, owner }))]))
      this.real.set(owner, there)
      this.follow(there)
    }
    return owners
  }

  /** Follows the chain of NSEC records from the apex, and adds its names. */
  private async walk(): Promise<void> {
    const { zone } = this
    let here = zone
    for (let steps = 0; steps < STEPS; steps++) {
      const message = await this.ask(here, TYPE.NSEC)
      const [nsec] = message ? recordsOf(message, here, TYPE.NSEC) : []
      if (!nsec) {
        if (steps > 0) this.walked = 'hidden'
        return
      }
      const next = foldName(wireToName(nsec.data))
      // A name made up for this answer begins with a label of a zero octet (RFC 4470 §4): it tells nothing.
      if (labelsOf(next)[0]?.startsWith('\\000')) {
        this.walked = 'hidden'
        return
      }
      const types = rdataFields(TYPE.NSEC, nsec.data)
        .slice(1)
        .flatMap((text) => text.split(' '))
        .flatMap((text) => parseType(text) ?? [])
        .filter((type) => !TYPES_OF_SIGNING.has(type))
      if (labelsOf(here)[0] === '*') this.wild.set(aboveOf(here), this.setsAt(here, types))
      else if (types.length > 0) this.add({ name: here, types, exists: true })
      if (next === zone || !isAtOrBelow(next, zone)) {
        this.walked = 'whole'
        return
      }
      here = next
    }
  }

  /** The first answer that one of the servers gives with authority, or with a referral. */
  private async ask(name: Name, type: number): Promise<Message | undefined> {
    for (const server of this.given.servers) {
      const message = await server(name, type)
      if (!message || (message.rcode !== 0 && message.rcode !== NXDOMAIN)) continue
      if (message.authoritative || cutIn(message, this.zone) !== undefined) return message
    }
    return undefined
  }
}

const NXDOMAIN = 3

/** The name above. */
function aboveOf(name: Name): Name {
  const labels = labelsOf(name).slice(1)
  return labels.length === 0 ? '.' : `${labels.join('.')}.`
}

const keyOf = ({ owner, type, data }: MessageRecord): string => `${foldName(owner)} ${type} ${rdataKey(type, data)}`

const recordsOf = ({ answers }: Message, name: Name, type: number): MessageRecord[] =>
  answers.filter((record) => record.type === type && foldName(record.owner) === foldName(name))

/** The delegated name that a message refers to, below the zone. */
function cutIn(message: Message, zone: Name): Name | undefined {
  if (message.authoritative || message.answers.length > 0) return undefined
  const ns = message.authority.find(({ type }) => type === TYPE.NS)
  if (!ns) return undefined
  const cut = foldName(ns.owner)
  return cut !== zone && isAtOrBelow(cut, zone) ? cut : undefined
}

function sameSet(a: readonly MessageRecord[] = [], b: readonly MessageRecord[] = []): boolean {
  const keys = new Set(a.map(({ type, data }) => `${type} ${rdataKey(type, data)}`))
  return a.length === b.length && b.every(({ type, data }) => keys.has(`${type} ${rdataKey(type, data)}`))
}

const sameSets = (a: Sets, b: Sets): boolean =>
  a.size === b.size && [...a].every(([type, set]) => sameSet(set, b.get(type)))

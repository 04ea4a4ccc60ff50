/** What of a zone can be confirmed by asking: every set, and what was removed; what cannot, with the reason. */
import { type Answer, answer, locateName, negativeTtl, plainSet } from '../knowledge/answer.ts'
import type { RecordSet, Seconds, Zone, Zones } from '../model/zones.ts'
import { foldName, type Name, nameToWire, wireToName } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import type { Rdata } from '../records/rdata.ts'
import { TYPE, TYPES_OF_SIGNING } from '../records/types.ts'
import { frontAt } from '../rules/fronts.ts'
import type { Follow, Front } from '../rules/rule.ts'

/** A set to ask for: the name to ask is the owner, or for a wildcard a name that it alone answers for. */
export interface Question {
  owner: Name
  type: number
  asked: Name
  /** The data that shall come; undefined where nothing of the type shall be there any more. */
  intended?: RecordSet
  /** The owner takes the present addresses of this name. */
  follow?: Name
  /** It is at or below a zone cut: what comes in a referral is compared, and only servers of the zone are asked. */
  referral?: boolean
  /** The zone's own SOA or NS records: what counts is that each server answers for them. */
  own?: true
  /** A web front answers for it, from its own addresses. */
  front?: Front
  /** For what was removed: whether another type, or a name below, is intended at the owner; and the alias that is, if one is. */
  exists?: boolean
  alias?: { to: Name; ttl: Seconds }
  /** For what was removed: how long caches may keep the denial of it, in seconds. */
  negativeTtl?: Seconds
}

/** A zone as its file was before a change. */
export interface Earlier {
  /** Until when it was so: seconds since 1970. */
  until: number
  zones: Zones
  zone: Zone
}

export interface Asked {
  questions: Question[]
  left: { owner: Name; type: number; why: string }[]
}

interface Around {
  follows?: readonly Follow[]
  fronts?: readonly Front[]
  earlier?: readonly Earlier[]
}

/** The questions of a kept zone. `fresh` is a label that cannot exist, for asking wildcards; the zone's own SOA and NS are not among them. The zones must be sealed. */
export function questionsFor(zones: Zones, zone: Zone, fresh: string, around: Around = {}): Asked {
  const questions: Question[] = []
  const left: Asked['left'] = []
  const followed = new Map((around.follows ?? []).map(({ owner, target }) => [absolute(owner), absolute(target)]))
  /** Who gives the data instead of the file: a name that is followed, or a front. */
  const given = (owner: Name, set: RecordSet): Pick<Question, 'follow' | 'front'> => {
    const isAddress = set.type === TYPE.A || set.type === TYPE.AAAA
    const follow = isAddress && followed.size > 0 ? followed.get(foldName(owner)) : undefined
    return follow === undefined ? { front: frontFor(around.fronts, set) } : { follow }
  }
  eachSet(zones, zone, (name, type) => {
    const owner = zones.tree.text(name)
    if (name === zone.apex && (type === TYPE.SOA || type === TYPE.NS)) return
    if (TYPES_OF_SIGNING.has(type)) return
    const isWildcard = zones.tree.isWildcard(name)
    const asked = isWildcard ? freshName(owner, fresh) : owner
    const plain = isWildcard ? undefined : plainSet(zones, name, type, zone)
    if (plain) {
      questions.push({ owner, type, asked, intended: plain, ...given(owner, plain) })
      return
    }
    const intended = answer(zones, asked, type)
    const set = intended.answers.find((each) => each.type === type && each.owner === asked)
    if (zones.zoneOf(name) !== zone)
      left.push({ owner, type, why: `it belongs to the zone ${zones.zoneOf(name)?.name}, which has its own file` })
    else if (intended.kind === 'referral') {
      const told = [...intended.authority, ...intended.additional].find(
        (each) => each.type === type && foldName(each.owner) === foldName(owner),
      )
      if (told) questions.push({ owner, type, asked, intended: told, referral: true })
      else left.push({ owner, type, why: 'it is delegated: the servers of the zone below answer for it' })
    } else if (!set)
      left.push({
        owner,
        type,
        why: 'servers never answer with it: a CNAME at the same name hides it',
      })
    else questions.push({ owner, type, asked, intended: set, ...given(owner, set) })
  })
  // What the host puts at the top by itself is not in the file.
  for (const [owner, follow] of followed)
    if (owner === foldName(zone.name))
      for (const type of [TYPE.A, TYPE.AAAA])
        if (!questions.some((each) => each.type === type && foldName(each.owner) === owner))
          questions.push({ owner: zone.name, type, asked: zone.name, follow })
  questions.push(...removed(zones, fresh, around.earlier ?? [], followed))
  return { questions, left }
}

const absolute = (name: string): Name => foldName(name.endsWith('.') ? name : `${name}.`)

/** Visits the sets of a zone, in the order in which its file has their names. */
function eachSet(zones: Zones, zone: Zone, visit: (name: number, type: number) => void): void {
  const types = new Map<number, Set<number>>()
  for (const record of zones.recordsIn(zone)) {
    const name = zones.owner(record)
    const known = types.get(name)
    if (known) known.add(zones.type(record))
    else if (zones.tree.isAtOrBelow(name, zone.apex)) types.set(name, new Set([zones.type(record)]))
  }
  for (const [name, all] of types) for (const type of all) visit(name, type)
}

function frontFor(fronts: readonly Front[] | undefined, set: RecordSet): Front | undefined {
  if (!fronts?.length) return undefined
  if (set.type === TYPE.CNAME) return frontAt(fronts, { name: wireToName(set.data[0]!) })
  return set.type === TYPE.A || set.type === TYPE.AAAA ? frontAt(fronts, { address: set.data[0] }) : undefined
}

function freshName(wildcard: Name, fresh: string): Name {
  const wire = nameToWire(wildcard) as Uint8Array
  return wireToName(new Uint8Array([fresh.length, ...octetsOf(fresh), ...wire.subarray(2)]))
}

/** Sets that the zone had, and has no more: what was removed must be gone, too. */
function removed(
  zones: Zones,
  fresh: string,
  earlier: readonly Earlier[],
  followed: ReadonlyMap<string, Name>,
): Question[] {
  const questions = new Map<string, Question>()
  for (const before of earlier)
    eachSet(before.zones, before.zone, (there, type) => {
      const owner = before.zones.tree.text(there)
      if (TYPES_OF_SIGNING.has(type) || type === TYPE.SOA || (type === TYPE.NS && there === before.zone.apex)) return
      const key = `${foldName(owner)} ${type}`
      if (questions.has(key) || (followed.has(foldName(owner)) && (type === TYPE.A || type === TYPE.AAAA))) return
      // An alias's own type is answered beside it; every other one by what it leads to.
      const asked = before.zones.tree.isWildcard(there) ? freshName(owner, fresh) : owner
      const node = locateName(zones, owner)
      if (node >= 0 && zones.has(node, type)) return
      const was = answer(before.zones, asked, type)
      if (!was.answers.some((each) => each.type === type && each.owner === asked)) return
      const now = answer(zones, asked, type)
      if (now.kind === 'referral' || now.kind === 'not-kept') return
      const alias = now.answers.find((each) => each.type === TYPE.CNAME && each.owner === asked)
      questions.set(key, {
        ...{ owner, type, asked, exists: now.kind !== 'no-name', negativeTtl: longestTtl(now) },
        ...(alias ? { alias: { to: wireToName(alias.data[0]!), ttl: alias.ttl } } : {}),
      })
    })
  return [...questions.values()]
}

/** What earlier states of the zone answered to a question, newest first, each with how long it could be kept by caches. */
export interface Past {
  /** The data of the type at the name asked for; an alias that stood there instead; neither where it was denied. */
  data?: Rdata[]
  alias?: Name
  /** The longest TTL of what such an answer was made of, aliases included; of a denial, how long it could be kept (RFC 2308 §5). */
  ttl: Seconds
  /** The TTL of the data, or of the alias, alone. */
  setTtl?: Seconds
  /** Until when the file said so. */
  until: number
}

export function pastOf({ asked, type }: Question, earlier: readonly Earlier[]): Past[] {
  return earlier.flatMap(({ zones, until }): Past[] => {
    const was = answer(zones, asked, type)
    if (was.kind === 'not-kept') return []
    const here = was.answers.filter((each) => foldName(each.owner) === foldName(asked))
    const alias = here.find((each) => each.type === TYPE.CNAME && type !== TYPE.CNAME)
    const set = here.find((each) => each.type === type)
    return [
      {
        until,
        ttl: longestTtl(was),
        ...(set
          ? { data: set.data, setTtl: set.ttl }
          : alias
            ? { alias: wireToName(alias.data[0]!), setTtl: alias.ttl }
            : {}),
      },
    ]
  })
}

/** The longest that a cache may keep any part of an answer, in seconds. */
export function longestTtl({ answers, authority }: Answer): number {
  const ttls = answers.map(({ ttl }) => ttl)
  const soa = authority.find(({ type }) => type === TYPE.SOA)
  if (soa) ttls.push(negativeTtl(soa.ttl, soa.data[0]!))
  else if (answers.length === 0) ttls.push(...authority.map(({ ttl }) => ttl))
  return Math.max(0, ...ttls)
}

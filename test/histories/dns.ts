/**
 * The DNS in time, as plainly as it can be written: a zone's file, its servers, which transfer it from one another, the zone above, resolvers with their caches. It knows
 * nothing of the product, and imports nothing of it. Times are whole seconds.
 */

/** Records of one name and type. */
export interface RecordSet {
  ttl: number
  values: string[]
}
/** A zone; its sets by `owner TYPE`, where `@` is its own name. */
export interface Version {
  serial: number
  soaTtl: number
  minimum: number
  refresh: number
  retry: number
  ns: { ttl: number; names: string[] }
  sets: Record<string, RecordSet>
  /** Of a copy at a server that signs: until when its signatures hold. */
  signedUntil?: number
}

export interface Server {
  copy: Version | undefined
  isPrimary: boolean
  up: boolean
  /** It has the zone no more: it refuses. */
  refuses: boolean
  /** Transfers to it fail. */
  blocked: boolean
  blockedUntil: number
  nextCheck: number
}

export interface Answer {
  /** `fail`: nothing of use came. */
  kind: 'data' | 'nodata' | 'nx' | 'fail' | 'refused' | 'silent'
  /** The aliases on the way: from whom to whom. */
  aliases: { owner: string; ttl: number; to: string }[]
  set?: RecordSet
  /** Of a denial: the TTL of its SOA record. */
  negative?: number
  stale?: 'told' | 'silently'
  /** A denial without the record that lets it be kept. */
  bare?: boolean
}

interface Kept {
  set?: RecordSet
  /** An alias stands there. */
  to?: string
  denied?: 'nodata' | 'nx'
  until: number
  /** The server that it came from. */
  from?: string
}

export interface Resolver {
  floor: number
  /** A floor of denials. */
  denialFloor: number
  cap: number
  stale: false | 'told' | 'silently'
  cutOff: boolean
  /** It still answers in the second in which a TTL comes to 0. */
  lastSecond: boolean
  /** Names and types that it answers by itself, always with the same TTL. */
  overrides: Record<string, RecordSet | null>
  caches: Record<string, Kept>[]
  failed: Record<string, number>
  /** The servers of the zone, as the zone above said, and until when it goes on asking those. */
  cut?: { names: string[]; until: number }
}

export interface World {
  now: number
  file: Version
  servers: Record<string, Server>
  parent: { ttl: number; names: string[]; secured: boolean }
  resolvers: Record<string, Resolver>
  /** What is at a name outside. */
  outside: Record<string, RecordSet>
  seed: number
}

const FAILURE_TTL = 5
const STALE_TTL = 30
const CHAIN = 4

/** A small generator of random numbers from 0 to 1. */
export function random(world: { seed: number }): number {
  world.seed = (world.seed + 0x6d2b79f5) | 0
  let t = Math.imul(world.seed ^ (world.seed >>> 15), 1 | world.seed)
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296
}

export const copyOf = <T>(value: T): T => structuredClone(value)
export const sameValues = (a: RecordSet | undefined, b: RecordSet | undefined): boolean =>
  (a?.values ?? []).slice().sort().join() === (b?.values ?? []).slice().sort().join()
const keyOf = (name: string, type: string): string => `${name} ${type}`

/** Servers that neither the zone nor the one above names fetch nothing any more, and go on answering with what they have. */
export function tend(world: World): void {
  const named = [...world.parent.names, ...world.file.ns.names]
  for (const [name, server] of Object.entries(world.servers))
    if (!named.includes(name)) server.nextCheck = Number.POSITIVE_INFINITY
    else if (!Number.isFinite(server.nextCheck)) server.nextCheck = world.now + 1
}

/** The primary loads a version; secondaries are told, unless that is lost. */
export function publish(world: World, version: Version, told: boolean): void {
  for (const server of Object.values(world.servers))
    if (server.isPrimary) server.copy = copyOf(version)
    else if (told && server.up && !server.refuses && Number.isFinite(server.nextCheck))
      server.nextCheck = Math.min(server.nextCheck, world.now + 1)
}

/** Time passes: secondaries look for a later serial when it is their time. */
export function pass(world: World, until: number): void {
  const servers = Object.values(world.servers)
  const primary = servers.find(({ isPrimary }) => isPrimary)!
  for (;;) {
    const due = servers.filter((each) => !each.isPrimary && each.up && each.copy && each.nextCheck <= until)
    if (due.length === 0) break
    const next = due.reduce((a, b) => (b.nextCheck < a.nextCheck ? b : a))
    const { refresh, retry } = next.copy!
    world.now = Math.max(world.now, next.nextCheck)
    if (next.blocked || !primary.up || !primary.copy) {
      next.blockedUntil = world.now
      next.nextCheck = world.now + retry
    } else {
      if (primary.copy.serial > next.copy!.serial) next.copy = copyOf(primary.copy)
      next.nextCheck = world.now + refresh
    }
  }
  world.now = Math.max(world.now, until)
}

/** What a version says: the data, an alias and what that leads to, a wildcard's, or a denial. */
export function answerOf(version: Version, name: string, type: string, depth = 0): Answer {
  const { sets, soaTtl, minimum } = version
  const negative = Math.min(soaTtl, minimum)
  const exists = Object.keys(sets).some((key) => key.split(' ')[0] === name || key.split(' ')[0]!.endsWith(`.${name}`))
  const wild = `*.${name.split('.').slice(1).join('.')}`
  const owner =
    exists || name === '@' ? name : Object.keys(sets).some((key) => key.split(' ')[0] === wild) ? wild : undefined
  if (owner === undefined) return { kind: 'nx', aliases: [], negative }
  const set = sets[keyOf(owner, type)]
  if (set) return { kind: 'data', aliases: [], set }
  const alias = sets[keyOf(owner, 'CNAME')]
  if (!alias || depth > CHAIN) return { kind: 'nodata', aliases: [], negative }
  const to = alias.values[0]!
  const step = { owner: name, ttl: alias.ttl, to }
  const rest = answerOf(version, to, type, depth + 1)
  return { ...rest, aliases: [step, ...rest.aliases] }
}

export function atServer({ up, refuses, copy }: Server, name: string, type: string): Answer {
  if (!up) return { kind: 'silent', aliases: [] }
  return refuses || !copy ? { kind: 'refused', aliases: [] } : answerOf(copy, name, type)
}

/** What a resolver answers, from one of its caches. */
export function atResolver(
  world: World,
  resolver: Resolver,
  name: string,
  type: string,
  which = Math.floor(random(world) * resolver.caches.length),
  depth = 0,
): Answer {
  const override = resolver.overrides[keyOf(name, type)]
  if (override !== undefined)
    return override
      ? { kind: 'data', aliases: [], set: override }
      : { kind: 'nx', aliases: [], bare: true, negative: 60 }
  const cache = resolver.caches[which]!
  const alive = (key: string): Kept | undefined =>
    cache[key] && isKept(resolver, cache[key], world.now) ? cache[key] : undefined
  const alias = (): Kept | undefined =>
    alive(keyOf(name, 'CNAME'))?.to === undefined ? undefined : alive(keyOf(name, 'CNAME'))
  const known = (): Kept | undefined => alive(keyOf(name, type)) ?? alias() ?? alive(keyOf(name, '*'))
  const failedUntil = resolver.failed[keyOf(name, type)] ?? 0
  if (!known() && failedUntil <= world.now) fetch(world, resolver, cache, name, type)
  const kept = known()
  if (kept) return told(world, resolver, name, type, which, depth, kept)
  if (failedUntil <= world.now) resolver.failed[keyOf(name, type)] = world.now + FAILURE_TTL
  const old = cache[keyOf(name, type)] ?? cache[keyOf(name, '*')]
  if (resolver.stale && old?.set)
    return { kind: 'data', aliases: [], set: { ...old.set, ttl: STALE_TTL }, stale: resolver.stale }
  if (resolver.stale && old?.denied)
    return { kind: old.denied, aliases: [], negative: STALE_TTL, stale: resolver.stale }
  return { kind: 'fail', aliases: [] }
}

function told(
  world: World,
  resolver: Resolver,
  name: string,
  type: string,
  which: number,
  depth: number,
  kept: Kept,
): Answer {
  const ttl = kept.until - world.now
  if (kept.denied) return { kind: kept.denied, aliases: [], negative: ttl }
  if (kept.set && !(kept.to !== undefined && type !== 'CNAME'))
    return { kind: 'data', aliases: [], set: { ...kept.set, ttl } }
  const to = kept.to!
  if (depth > CHAIN) return { kind: 'fail', aliases: [] }
  const rest = atResolver(world, resolver, to, type, which, depth + 1)
  return { ...rest, aliases: [{ owner: name, ttl, to }, ...rest.aliases] }
}

/** Whether a resolver still answers with what it has. */
export const isKept = ({ lastSecond }: Resolver, { until }: Kept, now: number): boolean =>
  until > now || (lastSecond && until === now)

/** Asks one of the servers that it knows of, and keeps what comes. */
function fetch(world: World, resolver: Resolver, cache: Record<string, Kept>, name: string, type: string): void {
  if (resolver.cutOff) return
  const { now } = world
  const held = (ttl: number, least = resolver.floor): number => now + Math.min(Math.max(ttl, least), resolver.cap)
  const outside = world.outside[name]
  if (outside) {
    if (type === 'A') cache[keyOf(name, type)] = { set: outside, until: held(outside.ttl) }
    else cache[keyOf(name, type)] = { denied: 'nodata', until: held(60, resolver.denialFloor) }
    return
  }
  if (!resolver.cut || resolver.cut.until <= now)
    resolver.cut = { names: [...world.parent.names], until: now + world.parent.ttl }
  const servers = resolver.cut.names.filter((each) => {
    const { up, refuses, copy } = world.servers[each]!
    return up && !refuses && copy
  })
  if (servers.length === 0) return
  const from = servers[Math.floor(random(world) * servers.length)]!
  const answer = answerOf(world.servers[from]!.copy!, name, type)
  const step = answer.aliases[0]
  const isAlias = type === 'CNAME' && answer.set !== undefined
  if (step)
    cache[keyOf(name, 'CNAME')] = {
      to: step.to,
      set: { ttl: step.ttl, values: [step.to] },
      until: held(step.ttl),
      from,
    }
  else if (answer.set)
    cache[keyOf(name, type)] = {
      ...{ set: answer.set, until: held(answer.set.ttl), from },
      ...(isAlias ? { to: answer.set.values[0]! } : {}),
    }
  else
    cache[answer.kind === 'nx' ? keyOf(name, '*') : keyOf(name, type)] = {
      denied: answer.kind as 'nodata' | 'nx',
      until: held(answer.negative!, Math.max(resolver.floor, resolver.denialFloor)),
      from,
    }
}

/** Whether an answer is what a version says. `removed`: nothing of the type shall be there; an alias may, where the version has one. */
export function isRight(version: Version, name: string, type: string, answer: Answer, atAServer: boolean): boolean {
  if (answer.kind === 'fail' || answer.kind === 'refused' || answer.kind === 'silent') return false
  const wanted = answerOf(version, name, type)
  const direct = wanted.aliases.length === 0 ? wanted.set : undefined
  const came = answer.aliases.length === 0 ? answer.set : undefined
  if (!direct) return came === undefined && (answer.aliases.length === 0 || wanted.aliases.length > 0)
  return came !== undefined && sameValues(came, direct) && (!atAServer || came.ttl === direct.ttl)
}

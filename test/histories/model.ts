/**
 * The DNS in time, as plainly as it can be written: a zone file, its primary server and secondaries that transfer it, caching resolvers. It knows nothing of the product,
 * and imports nothing of it. Times are whole seconds.
 */

/** What is at a name: an address and its TTL, or nothing. */
export type Content = { value: string; ttl: number } | null
export interface Zone {
  serial: number
  sets: Record<string, Content>
}

export const NEGATIVE_TTL = 900
export const REFRESH = 1800
export const RETRY = 600
/** How long a failure is kept, and the TTL of an expired answer. */
const FAILURE_TTL = 5
const STALE_TTL = 30

export interface Server {
  copy: Zone
  isPrimary: boolean
  up: boolean
  /** Transfers to it fail. */
  blocked: boolean
  /** When transfers to it failed last. */
  blockedUntil: number
  nextCheck: number
}

export interface Kept {
  content: Content
  until: number
}

export interface Resolver {
  floor: number
  cap: number
  /** Expired answers are served where nothing newer can be had; silently: without saying so. */
  stale: false | 'told' | 'silently'
  cutOff: boolean
  /** Names that it answers by itself, always with the same TTL. */
  overrides: Record<string, Content>
  /** One or several behind its address; who asks meets any of them. */
  caches: Record<string, Kept>[]
  failed: Record<string, number>
}

export interface World {
  now: number
  file: Zone
  servers: Server[]
  resolvers: Resolver[]
  /** Draws whom a resolver asks. */
  seed: number
}

export interface Answer {
  content: Content
  /** The TTL as it comes: of the data, or of the denial. */
  ttl: number
  stale?: boolean
  /** A denial without the record that lets it be kept. */
  bare?: boolean
}

/** A small generator of random numbers from 0 to 1. */
export function random(world: { seed: number }): number {
  world.seed = (world.seed + 0x6d2b79f5) | 0
  let t = Math.imul(world.seed ^ (world.seed >>> 15), 1 | world.seed)
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296
}

export const copyOf = <T>(value: T): T => structuredClone(value)
export const same = (a: Content, b: Content): boolean => a?.value === b?.value

/** The primary loads the file, or something else; secondaries are told, unless that is lost. */
export function publish(world: World, zone: Zone, told: boolean): void {
  for (const server of world.servers)
    if (server.isPrimary) server.copy = copyOf(zone)
    else if (told && server.up) server.nextCheck = Math.min(server.nextCheck, world.now + 1)
}

/** Time passes: secondaries look for a later serial when it is their time. */
export function pass(world: World, until: number): void {
  for (;;) {
    const due = world.servers.filter(({ isPrimary, nextCheck, up }) => !isPrimary && up && nextCheck <= until)
    if (due.length === 0) break
    const next = due.reduce((a, b) => (b.nextCheck < a.nextCheck ? b : a))
    world.now = Math.max(world.now, next.nextCheck)
    const primary = world.servers.find(({ isPrimary }) => isPrimary)!
    if (next.blocked || !primary.up) {
      next.blockedUntil = world.now
      next.nextCheck = world.now + RETRY
    } else {
      if (primary.copy.serial > next.copy.serial) next.copy = copyOf(primary.copy)
      next.nextCheck = world.now + REFRESH
    }
  }
  world.now = Math.max(world.now, until)
}

export const atServer = ({ copy, up }: Server, name: string): Answer | undefined =>
  up ? { content: copy.sets[name] ?? null, ttl: copy.sets[name]?.ttl ?? NEGATIVE_TTL } : undefined

/** What a resolver answers, from one of its caches; undefined where it fails. */
export function atResolver(
  world: World,
  resolver: Resolver,
  name: string,
  which = Math.floor(random(world) * resolver.caches.length),
): Answer | undefined {
  const { now } = world
  if (name in resolver.overrides) {
    const content = resolver.overrides[name]!
    return { content, ttl: content?.ttl ?? 60, bare: content === null }
  }
  const cache = resolver.caches[which]!
  const kept = cache[name]
  if (kept && kept.until > now) return { content: kept.content, ttl: kept.until - now }
  const up = world.servers.filter((each) => each.up)
  if (!resolver.cutOff && up.length > 0 && (resolver.failed[name] ?? 0) <= now) {
    const { content, ttl } = atServer(up[Math.floor(random(world) * up.length)]!, name)!
    const held = Math.min(Math.max(ttl, resolver.floor), resolver.cap)
    cache[name] = { content, until: now + held }
    return { content, ttl: held }
  }
  if ((resolver.failed[name] ?? 0) <= now) resolver.failed[name] = now + FAILURE_TTL
  if (resolver.stale && kept?.content)
    return { content: kept.content, ttl: STALE_TTL, stale: resolver.stale === 'told' }
  return undefined
}

/** Whether servers and resolvers all answer as the file says. */
export function isRight(world: World, name: string, withResolvers: boolean): boolean {
  const wanted = world.file.sets[name] ?? null
  const servers = world.servers.map((each) => atServer(each, name))
  if (servers.some((each) => !each || !same(each.content, wanted) || (wanted && each.ttl !== wanted.ttl))) return false
  if (!withResolvers) return true
  return world.resolvers.every((each) =>
    each.caches.every((_, which) => {
      const answer = atResolver(world, each, name, which)
      return answer !== undefined && same(answer.content, wanted)
    }),
  )
}

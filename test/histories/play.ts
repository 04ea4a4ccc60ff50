/** Plays random histories against the product, and holds what it says against the model. */

import { Memory } from '../../src/core/confirm/memory.ts'
import type { Observation } from '../../src/core/confirm/observation.ts'
import { type Earlier, questionsFor } from '../../src/core/confirm/questions.ts'
import { type Asking, type Confirmation, confirmRound, type Plan } from '../../src/core/confirm/round.ts'
import { emptyMessage, type Message } from '../../src/core/message/message.ts'
import type { Zones } from '../../src/core/model/zones.ts'
import { nameToWire } from '../../src/core/names/name.ts'
import { parseRdata } from '../../src/core/records/rdata.ts'
import { TYPE } from '../../src/core/records/types.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import {
  type Answer,
  atResolver,
  atServer,
  type Content,
  copyOf,
  isRight,
  type Kept,
  NEGATIVE_TTL,
  pass,
  publish,
  REFRESH,
  RETRY,
  type Resolver,
  random,
  same,
  type World,
  type Zone,
} from './model.ts'

const ZONE = 'hollowmere.example.'
const NAMES = ['www', 'ftp', 'new']
const TTLS = [60, 300, 3600, 7200]
const START = 1795420800
const ORIGIN = nameToWire(ZONE) as Uint8Array
const DAY = 86_400
/** What somebody publishes by mistake. */
const GARBAGE = { value: '203.0.113.66', ttl: 600 }

/** One thing that happens: after so many seconds, what, and how. */
export interface Step {
  after: number
  what: string
  how?: unknown
}
type Planned = Omit<Step, 'after'>
export interface Failure {
  seed: number
  said: string
  steps: Step[]
}

const NS = '@ NS ns0.upland-dns.example.\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.'
const soaText = (serial: number): string =>
  `ns0.upland-dns.example. h ${serial} ${REFRESH} ${RETRY} 1209600 ${NEGATIVE_TTL}`
const wire = (type: number, text: string): Uint8Array => (parseRdata(type, text, ORIGIN) as { wire: Uint8Array }).wire
const SERVERS = ['ns0', 'ns1', 'ns2']

const texts = new Map<string, Zones>()
function zonesOf({ serial, sets }: Zone): Zones {
  const lines = Object.entries(sets).map(([name, content]) => content && `${name} ${content.ttl} A ${content.value}`)
  const text = `$TTL 3600\n@ SOA ${soaText(serial)}\n${NS}\n${lines.filter(Boolean).join('\n')}`
  let zones = texts.get(text)
  if (!zones) {
    if (texts.size > 500) texts.clear()
    texts.set(text, (zones = exampleZones({ whole: true, zones: { 'hollowmere.example': text } })))
  }
  return zones
}

/** What came back for a set, by whom, as it came: kept to be held against what is said of it. */
interface Came {
  name: string
  party: string
  answer: Answer | undefined
}

export class History {
  /** How often each status was given, and held. */
  readonly held: Record<string, number> = {}
  readonly world: World
  readonly steps: Step[] = []
  readonly failures: string[] = []
  private readonly earlier: Earlier[] = []
  private memory = new Memory()
  private log: object[] = []
  private came: Came[] = []
  /** All that was ever answered, or to be answered, at a name. */
  private readonly ever: Record<string, Content[]> = {}
  /** When each name was first seen as the file has it at all servers, since when no other state was there. */
  private readonly seenThrough: Record<string, number> = {}
  private edits = 0
  /** Names that a confirmation saw garbage of at a server. */
  private readonly garbled = new Set<string>()
  private readonly planned: Planned[] = []
  /** States that a file which was written down, or a server at a confirmation, was seen to have; and when all servers were seen with others. */
  private readonly seen: Record<string, { state: Content; gone?: number }[]> = {}
  /** The primary went back to an earlier version, and nobody saw it. */
  private wentBack = false
  private readonly dice: { seed: number }

  constructor(seed: number) {
    const file: Zone = {
      serial: 1,
      sets: { www: { value: '192.0.2.10', ttl: 3600 }, ftp: { value: '192.0.2.20', ttl: 300 } },
    }
    const dice = { seed }
    this.dice = dice
    const draw = (): number => random(dice)
    const server = (isPrimary: boolean) => ({
      copy: copyOf(file),
      isPrimary,
      up: true,
      blocked: false,
      blockedUntil: 0,
      nextCheck: START + Math.floor(draw() * REFRESH),
    })
    // How long another cache keeps what a floor made of it cannot be seen: floors are of resolvers with one.
    const resolver = (several = draw() < 0.4) => ({
      floor: !several && draw() < 0.4 ? 600 : 0,
      cap: draw() < 0.2 ? 1800 : DAY,
      stale: draw() < 0.15 ? ('told' as const) : draw() < 0.1 ? ('silently' as const) : (false as const),
      cutOff: false,
      overrides: {},
      caches: several ? [{}, {}] : [{}],
      failed: {},
    })
    this.world = {
      now: START,
      file,
      servers: [server(true), server(false), server(false)],
      resolvers: [resolver(), resolver()],
      seed,
    }
    this.remember()
  }

  private see(name: string, ...states: Content[]): void {
    const known = (this.seen[name] ??= [])
    for (const state of states) {
      const there = known.find((each) => isState(each.state, state))
      if (there) delete there.gone
      else known.push({ state })
    }
  }

  /** Whether a cache can have a state by what was seen. */
  private couldHave(name: string, { content, until }: Kept, { floor, cap }: Resolver): boolean {
    if (!content) return true
    const fetched = until - Math.min(Math.max(content.ttl, floor), cap)
    return (this.seen[name] ?? []).some(
      ({ state, gone }) => isState(state, content) && (gone === undefined || fetched <= gone),
    )
  }

  private remember(): void {
    for (const name of NAMES)
      for (const { sets } of [this.world.file, ...this.world.servers.map(({ copy }) => copy)]) {
        const known = (this.ever[name] ??= [])
        const content = sets[name] ?? null
        if (!known.some((each) => same(each, content) && each?.ttl === content?.ttl)) known.push(content)
      }
  }

  /** Something happens, by the dice or as it was recorded. */
  async step({ after, what, how }: Step): Promise<void> {
    this.steps.push({ after, what, how })
    const { world } = this
    pass(world, world.now + after)
    const at = how as number
    if (what === 'edit' || what === 'edit by hand') {
      if (what === 'edit') {
        const zones = zonesOf(world.file)
        this.earlier.unshift({ until: world.now, zones, zone: zones.zones[0]! })
      }
      const [name, content] = how as [string, Content]
      if (what === 'edit') this.see(name, world.file.sets[name] ?? null)
      world.file = copyOf(world.file)
      world.file.sets[name] = content
      world.file.serial++
      delete this.seenThrough[name]
      if (what === 'edit by hand') this.edits++
    } else if (what === 'publish') publish(world, world.file, at === 1)
    else if (what === 'publish garbage') {
      const garbage = copyOf(world.file)
      garbage.sets[how as string] = GARBAGE
      publish(world, garbage, true)
    } else if (what === 'primary goes back') {
      const zones = [...this.earlier].at(-1)
      if (zones) world.servers[0]!.copy.serial = Math.max(1, world.servers[0]!.copy.serial - 1)
      this.wentBack = true
    } else if (what === 'block') world.servers[at]!.blocked = !world.servers[at]!.blocked
    else if (what === 'down') world.servers[at]!.up = !world.servers[at]!.up
    else if (what === 'cut off') world.resolvers[at]!.cutOff = !world.resolvers[at]!.cutOff
    else if (what === 'override') {
      const [which, name, content] = how as [number, string, Content]
      const { overrides } = world.resolvers[which]!
      if (name in overrides) delete overrides[name]
      else overrides[name] = content
    } else if (what === 'ask') {
      const [which, name] = how as [number, string]
      atResolver(world, world.resolvers[which]!, name)
    } else if (what === 'confirm') await this.confirm()
    this.remember()
  }

  /** What the dice bring next: often what follows from what came before. */
  next(): Step {
    const { world } = this
    // Dice of its own: a history that is written down goes as it went.
    const draw = (): number => random(this.dice)
    const one = <T>(list: readonly T[]): T => list[Math.floor(draw() * list.length)]!
    const span = draw()
    const after = Math.floor(draw() * (span < 0.6 ? 60 : span < 0.85 ? 1500 : 9000))
    const planned = this.planned.shift()
    if (planned) return { after, ...planned }
    const name = one(NAMES)
    const value = (): Content => {
      const now = world.file.sets[name]
      const dice = draw()
      if (now && dice < 0.25) return { value: now.value, ttl: one(TTLS) }
      if (now && dice < 0.4) return null
      if (dice < 0.65) return one(this.ever[name]!)
      return { value: `192.0.2.${10 + Math.floor(draw() * 6)}`, ttl: one(TTLS) }
    }
    const ask = (): Planned => ({ what: 'ask', how: [Math.floor(draw() * 2), name] })
    const edit = (what: string): Planned => ({ what, how: [name, value()] })
    const publication = (): Planned => ({ what: 'publish', how: draw() < 0.8 ? 1 : 0 })
    const plan = (...steps: Planned[]): Planned => {
      this.planned.push(...steps.filter(() => draw() < 0.8))
      return this.planned.shift() ?? { what: 'confirm' }
    }
    const confirm = { what: 'confirm' }
    const dice = draw()
    if (dice < 0.3)
      return {
        after,
        ...plan(ask(), ask(), edit(draw() < 0.7 ? 'edit' : 'edit by hand'), publication(), ask(), confirm),
      }
    if (dice < 0.36)
      return { after, ...plan({ what: 'publish garbage', how: name }, confirm, ask(), publication(), ask(), confirm) }
    if (dice < 0.39) return { after, ...plan({ what: 'primary goes back' }, confirm) }
    if (dice < 0.44) return { after, ...plan({ what: 'block', how: 1 + Math.floor(draw() * 2) }, confirm) }
    if (dice < 0.47) return { after, what: 'down', how: Math.floor(draw() * 3) }
    if (dice < 0.49) return { after, what: 'cut off', how: Math.floor(draw() * 2) }
    if (dice < 0.54) {
      const old = draw() < 0.4 ? one(this.ever[name]!) : null
      const content = draw() < 0.3 ? null : (old ?? { value: '203.0.113.9', ttl: one([60, 300]) })
      return { after, ...plan({ what: 'override', how: [Math.floor(draw() * 2), name, content] }, confirm) }
    }
    if (dice < 0.65) return { after, ...publication() }
    if (dice < 0.8) return { after, ...ask() }
    return { after, ...confirm }
  }

  private asking(): Asking {
    const { world } = this
    return {
      ask: async (party, name, type) => {
        const label = name.replace(`.${ZONE}`, '')
        const index = Number(party.at(-1))
        const isServer = party.startsWith('ns')
        if (party === 'parent') return observed(world, party, { authority: nsRecords() })
        if (isServer && (type === TYPE.SOA || type === TYPE.NS)) {
          const server = world.servers[index]!
          if (!server.up) return observed(world, party, undefined)
          if (server.isPrimary && server.copy.serial < world.file.serial) this.wentBack = false
          const answers = type === TYPE.NS ? nsRecords() : [record(ZONE, TYPE.SOA, 3600, soaText(server.copy.serial))]
          return observed(world, party, { authoritative: true, answers })
        }
        const answer = isServer
          ? atServer(world.servers[index]!, label)
          : atResolver(world, world.resolvers[index]!, label)
        if (type === TYPE.A) this.came.push({ name: label, party, answer: answer && copyOf(answer) })
        if (!answer) return observed(world, party, isServer ? undefined : { rcode: 2, recursionAvailable: true })
        return observed(world, party, messageOf(label, type, answer, isServer))
      },
      now: () => world.now,
      sleep: async (seconds) => pass(world, world.now + seconds),
    }
  }

  private async confirm(): Promise<void> {
    const { world } = this
    const zones = zonesOf(world.file)
    const zone = zones.zones[0]!
    const { questions } = questionsFor(zones, zone, 'fresh-1', { earlier: this.earlier })
    const plan: Plan = {
      zones,
      zone,
      questions,
      earlier: this.earlier,
      moreEarlier: this.edits > 0,
      parties: [
        ...SERVERS.map((label) => ({ label, role: 'authoritative' as const, server: `${label}.upland-dns.example.` })),
        { label: 'resolver0', role: 'resolver' },
        { label: 'resolver1', role: 'resolver' },
      ],
      parents: [{ label: 'parent' }],
      memory: this.memory,
      fresh: 'fresh-1',
      samples: 1,
      early: false,
    }
    this.came = []
    const confirmation = await confirmRound(plan, this.asking())
    this.hold(confirmation)
    this.log.push(
      ...this.memory.note({
        zone,
        sets: confirmation.sets,
        vantages: [],
        state: confirmation.state,
        now: confirmation.at,
      }),
    )
    // What a log keeps is all that the next call knows.
    this.memory = new Memory(JSON.parse(JSON.stringify(this.log)))
  }

  /** Holds every statement against the model. */
  private hold({ sets, at }: Confirmation): void {
    const { world } = this
    for (const { question, status, answers } of sets) {
      const name = question.owner.replace(`.${ZONE}`, '')
      this.held[status.word] = (this.held[status.word] ?? 0) + 1
      if (name === ZONE || question.type !== TYPE.A) continue
      const wanted = world.file.sets[name] ?? null
      const came = this.came.filter((each) => each.name === name)
      const fail = (what: string): void =>
        void this.failures.push(
          `${name} is said to be ${status.word}${status.until === undefined ? '' : ` until +${status.until - at} s`} (${status.text}): ${what}`,
        )
      const lastOf = (party: string): Answer | undefined => came.findLast((each) => each.party === party)?.answer
      const isSeenRight = (party: string): boolean => {
        const answer = lastOf(party)
        const alike = answer !== undefined && same(answer.content, wanted)
        return alike && (!party.startsWith('ns') || !wanted || answer.ttl === wanted.ttl)
      }
      const parties = [...SERVERS, 'resolver0', 'resolver1']
      if (SERVERS.some((server) => lastOf(server)?.content?.value === GARBAGE.value)) this.garbled.add(name)
      const had = SERVERS.map((server) => lastOf(server)).flatMap((answer) => (answer ? [answer.content] : []))
      if (had.length === SERVERS.length)
        for (const each of this.seen[name] ?? []) if (!had.some((state) => isState(state, each.state))) each.gone ??= at
      this.see(name, ...had)
      if (!this.seen[name]!.some((each) => isState(each.state, wanted))) this.see(name, wanted)
      const throughServers = SERVERS.every(isSeenRight)
      if (!throughServers) delete this.seenThrough[name]
      if (status.word === 'confirmed')
        for (const party of parties) if (!isSeenRight(party)) fail(`${party} answers otherwise, or was not asked`)
      if (
        status.word === 'unreachable' &&
        parties.every((party) => lastOf(party) !== undefined || !came.some((each) => each.party === party))
      )
        fail('all replied')
      for (const { verdict, vantage, extra } of answers)
        if (
          verdict === 'earlier-answer' &&
          !this.ever[name]!.some((each) => each && (extra.includes(each.value) || extra.length === 0))
        )
          fail(`${vantage}: no state of it was ever that`)
      // What nobody saw or wrote down cannot be known: how long another cache may have it, and that it was ever there.
      const strange = answers.filter(
        ({ verdict, role }) =>
          role === 'resolver' && (verdict === 'different' || (verdict === 'absent' && this.earlier.length === 0)),
      )
      if (status.word === 'settling')
        this.holdSettling(name, status.until, at, fail, throughServers, strange.length > 0)
      // Mere waiting, with everything that ails as it is.
      if (['wrong', 'overdue', 'split'].includes(status.word)) {
        const later = copyOf(world)
        const failed = world.servers.some(
          ({ blockedUntil, blocked }) => blocked || blockedUntil > at - REFRESH - 2 * RETRY,
        )
        pass(later, at + 30 * DAY)
        const unseen = strange.some(({ extra }) => extra.includes(GARBAGE.value) && !this.garbled.has(name))
        if (isRight(later, name, true) && !(status.word === 'overdue' && (failed || this.wentBack)) && !unseen)
          fail('mere waiting mends it')
      }
      if (throughServers) this.seenThrough[name] ??= at
    }
  }

  private holdSettling(
    name: string,
    until: number | undefined,
    at: number,
    fail: (what: string) => void,
    throughServers: boolean,
    isStrange: boolean,
  ): void {
    const { world } = this
    if (until === undefined) return
    // What cannot be seen from outside is taken to be well: transfers that fail, resolvers that are cut off.
    const later = copyOf(world)
    for (const server of later.servers) {
      if (server.blocked || server.blockedUntil > 0) server.nextCheck = Math.min(server.nextCheck, until)
      server.blocked = false
      server.up = true
    }
    const wanted = world.file.sets[name] ?? null
    for (const [i, resolver] of later.resolvers.entries()) {
      // Of one that is right, or fails, nothing is known of what other caches of it have.
      const answer = this.came.findLast((each) => each.name === name && each.party === `resolver${i}`)?.answer
      if (!answer || same(answer.content, wanted)) for (const cache of resolver.caches) delete cache[name]
      resolver.cutOff = false
      // Nor that it has a state which was there unseen.
      for (const cache of resolver.caches)
        if (cache[name] && !this.couldHave(name, cache[name], resolver)) delete cache[name]
      if (isStrange) for (const cache of resolver.caches) if ((cache[name]?.until ?? 0) > until) delete cache[name]
      resolver.failed = {}
      // An override with a state that was there, and a TTL that a cache could have, looks like a cache.
      for (const [owner, content] of Object.entries(resolver.overrides))
        if (this.ever[owner]!.some((each) => same(each, content)) && content) delete resolver.overrides[owner]
    }
    pass(later, until + 1)
    if (!isRight(later, name, throughServers)) fail('by then it is not right')
    const longest = Math.max(300, NEGATIVE_TTL, ...this.ever[name]!.map((each) => each?.ttl ?? 0))
    const since = this.seenThrough[name] ?? at
    const kept = this.came.filter((each) => each.name === name).map(({ answer }) => at + (answer?.ttl ?? 0))
    const allowed = Math.max(...kept, since + longest, throughServers ? 0 : at + REFRESH + RETRY, at + 300)
    if (until > allowed) fail(`what was seen allows no more than +${allowed - at} s`)
  }
}

const isState = (a: Content, b: Content): boolean => same(a, b) && a?.ttl === b?.ttl

const record = (owner: string, type: number, ttl: number, text: string) => ({
  owner,
  type,
  class: 1,
  ttl,
  data: wire(type, text),
})
const nsRecords = () => SERVERS.map((label) => record(ZONE, TYPE.NS, 3600, `${label}.upland-dns.example.`))

function observed(world: World, vantage: string, message: Partial<Message> | undefined): Observation {
  const base = { vantage, transport: 'udp' as const, tookMs: 1, at: world.now }
  if (!message) return { ...base, trouble: { kind: 'no-reply', detail: 'no reply' } }
  return { ...base, message: { ...emptyMessage(1), response: true, ...message } }
}

function messageOf(
  label: string,
  type: number,
  { content, ttl, stale, bare }: Answer,
  isServer: boolean,
): Partial<Message> {
  const base = { authoritative: isServer, recursionAvailable: !isServer }
  const edns = stale
    ? { size: 1232, dnssecOk: false, options: [{ code: 15, data: new Uint8Array([0, 3]) }] }
    : undefined
  if (content && type === TYPE.A)
    return { ...base, edns, answers: [record(`${label}.${ZONE}`, TYPE.A, ttl, content.value)] }
  // One negative answer for each name: NXDOMAIN, since there is nothing else at it.
  const soa = bare ? [] : [record(ZONE, TYPE.SOA, ttl, soaText(1))]
  return { ...base, rcode: content ? 0 : 3, authority: soa }
}

/** Plays a history by the dice; what was said that is not so, if anything was, and how often each status was given. */
export async function play(
  seed: number,
  length: number,
): Promise<{ failure?: Failure; held: History['held']; steps: readonly Step[] }> {
  const history = new History(seed)
  const { held, failures, steps } = history
  for (let i = 0; i < length && failures.length === 0; i++) await history.step(history.next())
  return { held, steps, ...(failures.length > 0 ? { failure: { seed, said: failures[0]!, steps } } : {}) }
}

/** Plays a history as it is written down. */
export async function replay(seed: number, steps: readonly Step[]): Promise<Pick<History, 'held' | 'failures'>> {
  const history = new History(seed)
  for (const step of steps) await history.step(step)
  return history
}

/** The history as a script that can be read, and handed to `replay`. */
export const scriptOf = ({ seed, said, steps }: Failure): string =>
  `${said}\nreplay(${seed}, [\n${steps.map((step) => `  ${JSON.stringify(step)},`).join('\n')}\n])`

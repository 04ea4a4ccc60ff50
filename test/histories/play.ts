/** Plays random histories: the whole program is called, as people call it, in a world that it knows only by asking; what it says is held against that world. */
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { callHere } from '../cli/in-process.ts'
import type { Ran } from '../cli/program.ts'
import { ADDRESS, playing, soaText, ZONE } from './asked.ts'
import { copyOf, pass, publish, type RecordSet, type Resolver, random, tend, type Version, type World } from './dns.ts'
import { Judge } from './judge.ts'

const START = 1795420800
const DAY = 86_400
/** Syncing files to a disk takes most of the time otherwise. */
const MEMORY = '/dev/shm'
const TTLS = [60, 300, 3600, 7200]
/** What somebody publishes by mistake. */
const GARBAGE = ['203.0.113.66']
export const FRONT = 'site.front.example.'
const SERVERS = ['ns0', 'ns1', 'ns2']

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

/** What sets may hold. */
const UNIVERSE: Record<string, string[][]> = {
  'www A': [['192.0.2.10'], ['192.0.2.11'], ['192.0.2.10', '192.0.2.11']],
  'www AAAA': [['2001:db8::10'], ['2001:db8::11']],
  'www CNAME': [['host'], ['other']],
  'www TXT': [['"one"'], ['"two"']],
  'ftp A': [['192.0.2.20'], ['192.0.2.21']],
  'new A': [['192.0.2.30'], ['192.0.2.31']],
  '*.pier A': [['192.0.2.40'], ['192.0.2.41']],
  '*.pier TXT': [['"pier"'], ['"quay"']],
  'boat.pier TXT': [['"boat"']],
  'a.deep TXT': [['"deep"']],
  '@ A': [['192.0.2.80'], ['192.0.2.81']],
}
const KEYS = Object.keys(UNIVERSE)
const NAMES = ['www', 'ftp', 'new', '@', 'x.pier', 'boat.pier', 'deep']

export const textOf = (version: Version): string =>
  [
    '$TTL 3600',
    `@ ${version.soaTtl} SOA ${soaText(version)}`,
    ...version.ns.names.map((each) => `@ ${version.ns.ttl} NS ${each}.upland-dns.example.`),
    ...Object.entries(version.sets).flatMap(([key, { ttl, values }]) => {
      const [owner, type] = key.split(' ')
      return values.map((value) => `${owner} ${ttl} ${type} ${value}`)
    }),
    '',
  ].join('\n')

/** A version with another set at a name; nothing stands beside an alias. */
function changed(version: Version, key: string, set: RecordSet | null): Version {
  const made = copyOf(version)
  const [owner, type] = key.split(' ') as [string, string]
  if (set)
    for (const other of Object.keys(made.sets))
      if (other.startsWith(`${owner} `) && (type === 'CNAME' || other === `${owner} CNAME`)) delete made.sets[other]
  if (set) made.sets[key] = set
  else delete made.sets[key]
  return made
}

export class History {
  readonly world: World
  readonly steps: Step[] = []
  readonly judge: Judge
  private readonly folder = mkdtempSync(join(existsSync(MEMORY) ? MEMORY : tmpdir(), 'bramblefront-history-'))
  private readonly file = join(this.folder, 'zones', 'hollowmere.example.zone')
  private readonly dice: { seed: number }
  private readonly planned: Planned[] = []
  private readonly follows: boolean

  constructor(seed: number) {
    this.dice = { seed }
    const draw = (): number => random(this.dice)
    const one = <T>(list: readonly T[]): T => list[Math.floor(draw() * list.length)]!
    this.follows = draw() < 0.3
    const isEmpty = draw() < 0.08
    const file: Version = {
      serial: 1,
      soaTtl: one([600, 3600, 7200]),
      minimum: one([300, 900, 3600]),
      refresh: one([900, 1800]),
      retry: one([300, 600]),
      ns: { ttl: 3600, names: [...SERVERS] },
      sets: isEmpty
        ? {}
        : {
            'www A': { ttl: 3600, values: ['192.0.2.10'] },
            'ftp A': { ttl: 300, values: ['192.0.2.20'] },
            'host A': { ttl: 600, values: ['192.0.2.50'] },
            'other A': { ttl: 60, values: ['192.0.2.51'] },
            ...(draw() < 0.5 ? { '*.pier A': { ttl: one(TTLS), values: ['192.0.2.40'] } } : {}),
            ...(this.follows ? { '@ A': { ttl: 300, values: ['192.0.2.80'] } } : {}),
          },
    }
    const signs = draw() < 0.2
    const copy = signs ? { ...copyOf(file), signedUntil: START + DAY * (1 + Math.floor(draw() * 4)) } : file
    const server = (isPrimary: boolean) => ({
      copy: copyOf(copy),
      isPrimary,
      up: true,
      refuses: false,
      blocked: false,
      blockedUntil: 0,
      nextCheck: START + Math.floor(draw() * file.refresh),
    })
    // How long another cache keeps what a floor made of it cannot be seen: floors are of resolvers with one.
    const resolver = (several = draw() < 0.3): Resolver => ({
      floor: !several && draw() < 0.3 ? 600 : 0,
      denialFloor: !several && draw() < 0.2 ? 1200 : 0,
      cap: draw() < 0.2 ? 1800 : DAY,
      stale: draw() < 0.15 ? 'told' : draw() < 0.1 ? 'silently' : false,
      cutOff: false,
      lastSecond: draw() < 0.5,
      overrides: {},
      caches: several ? [{}, {}] : [{}],
      failed: {},
    })
    this.world = {
      now: START,
      file,
      servers: {
        ns0: server(true),
        ns1: server(false),
        ns2: server(false),
        // Of an earlier host: nobody tells it anything.
        ns3: { ...server(false), nextCheck: Number.POSITIVE_INFINITY },
      },
      parent: { ttl: one([3600, 7200]), names: [...SERVERS], secured: draw() < 0.7 },
      resolvers: { r0: resolver(), r1: resolver() },
      outside: { [FRONT]: { ttl: 60, values: ['192.0.2.80'] } },
      seed,
    }
    this.judge = new Judge(this.world, this.follows)
    mkdirSync(join(this.folder, 'zones'))
    writeFileSync(this.file, textOf(file))
    writeFileSync(
      join(this.folder, 'bramblefront.yaml'),
      [
        'zones: [zones/*.zone]',
        'vantages:',
        '  - authoritative',
        ...[0, 1].map((i) => `  - {label: r${i}, address: ${ADDRESS.resolver(i)}}`),
        'servers:',
        ...[0, 1, 2, 3].map((i) => `  - {name: ns${i}.upland-dns.example, address: ${ADDRESS.server(i)}}`),
        `  - {name: ns.registry, address: ${ADDRESS.parent}}`,
        ...(this.follows ? ['follows:', '  - {owner: hollowmere.example, target: site.front.example}'] : []),
        '',
      ].join('\n'),
    )
  }

  get failures(): string[] {
    return this.judge.failures
  }

  end(): void {
    rmSync(this.folder, { recursive: true, force: true })
  }

  private call(...args: string[]): Promise<Ran> {
    playing.world = this.world
    playing.came = []
    return callHere(this.folder, ...args)
  }

  /** Something happens, by the dice or as it was recorded. */
  async step({ after, what, how }: Step): Promise<void> {
    this.steps.push({ after, what, how })
    const { world } = this
    pass(world, world.now + after)
    const server = world.servers[how as string]
    if (what === 'write' || what === 'edit') await this.edit(what === 'edit', ...(how as [string, RecordSet | null]))
    else if (what === 'head') await this.head(how as Partial<Version>)
    else if (what === 'publish') this.publish(world.file, how === true)
    else if (what === 'publish garbage')
      this.publish(changed(world.file, how as string, { ttl: 600, values: GARBAGE }), true)
    else if (what === 'primary goes back') {
      const { copy } = world.servers.ns0!
      copy!.serial = Math.max(1, copy!.serial - 1)
      this.judge.wentBack()
    } else if (what === 'block') server!.blocked = !server!.blocked
    else if (what === 'down') server!.up = !server!.up
    else if (what === 'refuse') server!.refuses = !server!.refuses
    else if (what === 'delegate') world.parent.names = how as string[]
    else if (what === 'front') world.outside[FRONT] = { ttl: 60, values: [how as string] }
    else if (what === 'cut off') world.resolvers[how as string]!.cutOff = !world.resolvers[how as string]!.cutOff
    else if (what === 'override') {
      const [who, key, set] = how as [string, string, RecordSet | null]
      const { overrides } = world.resolvers[who]!
      if (key in overrides) delete overrides[key]
      else overrides[key] = set
    } else if (what === 'ask') {
      const [who, name, type] = how as [string, string, string]
      const { atResolver } = await import('./dns.ts')
      atResolver(world, world.resolvers[who]!, name, type)
    } else if (what === 'follow') await this.follow()
    else if (what === 'confirm') await this.confirm(how as string[], 0)
    else if (what === 'confirm by a wrong clock') await this.confirm([], how as number)
    else if (what === 'timing') await this.timing()
    if (what === 'head' || what === 'delegate') tend(world)
    this.judge.remember(what)
  }

  private publish(version: Version, told: boolean): void {
    const { signedUntil } = this.world.servers.ns0!.copy!
    publish(
      this.world,
      signedUntil === undefined
        ? version
        : { ...version, signedUntil: this.world.now + DAY * (1 + Math.floor(random(this.world) * 4)) },
      told,
    )
  }

  /** What is to stand at a name is written by a command, or in the file by hand. */
  private async edit(byHand: boolean, key: string, set: RecordSet | null): Promise<void> {
    const { world } = this
    const next = changed(world.file, key, set)
    if (byHand) {
      next.serial++
      world.file = next
      writeFileSync(this.file, textOf(next))
      this.judge.edited()
      return
    }
    const [owner, type] = key.split(' ') as [string, string]
    const full = owner === '@' ? 'hollowmere.example' : `${owner}.hollowmere.example`
    const before = readFileSync(this.file, 'utf8')
    this.judge.written(world.file)
    const more = ['--force', '--json']
    if (!set) await this.call('remove', full, type, ...more)
    else {
      const values = set.values.map((value) => (type === 'CNAME' ? `${value}.${ZONE}` : value.replaceAll('"', '')))
      const kind = type === 'TXT' ? 'txt' : type === 'CNAME' ? 'cname' : 'address'
      await this.call('write', kind, full, ...values, '--ttl', String(set.ttl), '--replace', ...more)
    }
    this.taken(before, next)
  }

  /** The file has what a command wrote, with a serial of its own. */
  private taken(before: string, next: Version): void {
    const text = readFileSync(this.file, 'utf8')
    if (text === before) return
    next.serial = Number(/SOA \S+ \S+ (\d+)/.exec(text)![1])
    this.world.file = next
    this.judge.written(next)
  }

  /** Times, minimum or name servers of the zone, by hand. */
  private async head(how: Partial<Version>): Promise<void> {
    this.world.file = { ...copyOf(this.world.file), ...how, serial: this.world.file.serial + 1 }
    writeFileSync(this.file, textOf(this.world.file))
    this.judge.edited()
  }

  private async follow(): Promise<void> {
    const before = readFileSync(this.file, 'utf8')
    const ran = await this.call('follow', '--yes', '--json', '--force')
    if (!ran.stdout.startsWith('{')) {
      this.failures.push(`follow: ${ran.stderr}`)
      return
    }
    const [value] = this.world.outside[FRONT]!.values
    const there = this.world.file.sets['@ A']
    const set = ran.json().zones[0]?.sets?.find(({ type }: { type: string }) => type === 'A')?.after
    if (!set) return
    // What a resolver had of it may be older than what is there now.
    this.judge.written(this.world.file)
    this.taken(
      before,
      changed(this.world.file, '@ A', { ttl: there?.ttl ?? set.ttl, values: [set.records[0] ?? value] }),
    )
  }

  private async confirm(args: string[], skew: number): Promise<void> {
    playing.skew = skew
    const ran = await this.call('confirm', 'hollowmere.example', '--json', ...args)
    playing.skew = 0
    // A zone without anybody to ask is refused in words.
    if (!ran.stdout.startsWith('{')) this.failures.push(`confirm ${args.join(' ')}: ${ran.stderr}`)
    else this.judge.confirmed(ran.status, ran.json(), playing.came, skew)
  }

  private async timing(): Promise<void> {
    const ran = await this.call('timing', 'hollowmere.example', '--json')
    if (ran.status !== 0) this.failures.push(`timing: ${ran.stderr}`)
    else this.judge.timed(ran.json())
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
    const key = one(KEYS.filter((each) => each !== '@ A' || !this.follows))
    const [owner, type] = key.split(' ') as [string, string]
    const value = (): RecordSet | null => {
      const now = world.file.sets[key]
      const dice = draw()
      if (now && dice < 0.25) return { ...now, ttl: one(TTLS) }
      return now && dice < 0.45 ? null : { ttl: one(TTLS), values: one(UNIVERSE[key]!) }
    }
    const name = owner.replace('*', 'x')
    const ask = (): Planned => ({
      what: 'ask',
      how: [one(['r0', 'r1']), draw() < 0.7 ? name : one(NAMES), type === 'CNAME' ? 'A' : type],
    })
    const write = (): Planned => ({ what: draw() < 0.75 ? 'write' : 'edit', how: [key, value()] })
    const publication = (): Planned => ({ what: 'publish', how: draw() < 0.8 })
    const plan = (...steps: Planned[]): Planned => {
      this.planned.push(...steps.filter(() => draw() < 0.85))
      return this.planned.shift() ?? { what: 'confirm', how: [] }
    }
    const confirm = (): Planned => {
      const dice = draw()
      if (dice < 0.1) return { what: 'confirm', how: ['--at', one(['r0', 'r1'])] }
      if (dice < 0.22) return { what: 'confirm', how: ['--watch', '--deadline', one(['1m', '5m', '30m'])] }
      if (dice < 0.27) return { what: 'confirm by a wrong clock', how: one([60, 3600, DAY]) }
      return { what: 'confirm', how: [] }
    }
    const timing = { what: 'timing' }
    const dice = draw()
    if (dice < 0.4) return { after, ...plan(ask(), ask(), write(), publication(), ask(), confirm(), timing, confirm()) }
    if (dice < 0.45)
      return {
        after,
        ...plan(
          { what: 'publish garbage', how: one(['www A', 'ftp A', 'new A']) },
          confirm(),
          ask(),
          publication(),
          ask(),
          confirm(),
        ),
      }
    if (dice < 0.47) return { after, ...plan({ what: 'primary goes back' }, confirm()) }
    if (dice < 0.52) return { after, ...plan({ what: 'block', how: one(['ns1', 'ns2']) }, confirm()) }
    if (dice < 0.55) return { after, what: 'down', how: one(SERVERS) }
    if (dice < 0.57) return { after, ...plan({ what: 'refuse', how: one(['ns1', 'ns2']) }, confirm()) }
    if (dice < 0.59) return { after, what: 'cut off', how: one(['r0', 'r1']) }
    if (dice < 0.63) {
      const content =
        draw() < 0.3 ? null : { ttl: one([60, 300]), values: draw() < 0.4 ? one(UNIVERSE['www A']!) : ['203.0.113.9'] }
      return {
        after,
        ...plan({ what: 'override', how: [one(['r0', 'r1']), one(['www A', 'ftp A']), content] }, confirm()),
      }
    }
    if (dice < 0.67) {
      const head = one<Partial<Version>>([
        { minimum: one([60, 300, 3600]) },
        { soaTtl: one([60, 7200]) },
        { refresh: one([600, 3600]) },
      ])
      return { after, ...plan({ what: 'head', how: head }, publication(), confirm(), timing) }
    }
    if (dice < 0.71) {
      // To other servers and back: first they get the zone, then the file and the zone above say so.
      const names = world.file.ns.names.includes('ns2') ? ['ns0', 'ns1'] : [...SERVERS]
      return {
        after,
        ...plan(
          { what: 'head', how: { ns: { ttl: one([600, 3600]), names } } },
          publication(),
          { what: 'delegate', how: names },
          confirm(),
          ask(),
          confirm(),
          timing,
        ),
      }
    }
    if (this.follows && dice < 0.8)
      return {
        after,
        ...plan(
          { what: 'front', how: one(['192.0.2.80', '192.0.2.81', '192.0.2.82']) },
          confirm(),
          { what: 'follow' },
          publication(),
          confirm(),
        ),
      }
    if (dice < 0.83) return { after, ...publication() }
    if (dice < 0.9) return { after, ...ask() }
    return { after, ...(draw() < 0.7 ? confirm() : timing) }
  }
}

/** Plays a history by the dice; what was said that is not so, if anything was, and how often each status was given. */
export async function play(
  seed: number,
  length: number,
): Promise<{ failure?: Failure; held: Record<string, number>; steps: readonly Step[] }> {
  const history = new History(seed)
  try {
    const { failures, steps } = history
    for (let i = 0; i < length && failures.length === 0; i++) await history.step(history.next())
    return {
      held: history.judge.held,
      steps,
      ...(failures.length > 0 ? { failure: { seed, said: failures[0]!, steps } } : {}),
    }
  } finally {
    history.end()
  }
}

/** Plays a history as it is written down. */
export async function replay(
  seed: number,
  steps: readonly Step[],
): Promise<{ held: Record<string, number>; failures: string[] }> {
  const history = new History(seed)
  try {
    for (const step of steps) await history.step(step)
    return { held: history.judge.held, failures: history.failures }
  } finally {
    history.end()
  }
}

/** The history as a script that can be read, and handed to `replay`. */
export const scriptOf = ({ seed, said, steps }: Failure): string =>
  `${said}\nreplay(${seed}, [\n${steps.map((step) => `  ${JSON.stringify(step)},`).join('\n')}\n])`

/** Plays a random history of one zone: edits, deliveries, others' changes, calls that are cut short; after each step what the program says is held against the model. */
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { callHere } from '../cli/in-process.ts'
import { type Key, ownerOf, type Publish, Side, type State, setOrDelete, type Verdict } from './model.ts'

export const ZONE = 'hollowmere.example'
const LONG = 'x'.repeat(250)
/** What sets may hold; those that are in the included file. */
const UNIVERSE: Record<Key, string[]> = {
  '@ MX': ['3600 10 mx1.larkpost.example.', '3600 20 mx2.larkpost.example.'],
  '@ TXT': ['3600 "one"', '60 "one"', '3600 "two"'],
  'www A': ['3600 192.0.2.1', '3600 192.0.2.2', '60 192.0.2.1', '3600 192.0.2.1|192.0.2.2'],
  'mail A': ['3600 192.0.2.25', '3600 192.0.2.26'],
  'mail AAAA': ['3600 2001:db8::25', '3600 2001:db8::26'],
  'long1 TXT': [`3600 "a${LONG}" "${LONG}"`, `3600 "b${LONG}" "${LONG}"`],
  'long2 TXT': [`3600 "a${LONG}" "${LONG}"`, `3600 "b${LONG}" "${LONG}"`],
  'long3 TXT': [`3600 "a${LONG}" "${LONG}"`, `3600 "b${LONG}" "${LONG}"`],
  'host A': ['3600 192.0.2.40', '3600 192.0.2.41'],
  'deep.host A': ['3600 192.0.2.50', '3600 192.0.2.51'],
  'dual A': ['3600 192.0.2.60', '3600 192.0.2.61'],
  'dual CNAME': ['3600 mx1.larkpost.example.', '3600 mx2.larkpost.example.'],
}
const KEYS = Object.keys(UNIVERSE)
const INCLUDED = new Set(['host A', 'deep.host A'])

/** A server under test: what it has, what others do there, and how a call to it is cut short. */
export interface Judged {
  port: number
  /** Its sets, in the model's form. */
  state(): State | Promise<State>
  others(key: Key, value: string | undefined): void | Promise<void>
  /** Hangs at the n-th message of dynamic update from now on, before it does it or after; resolves once it hangs. */
  hang?(n: number, isDone: boolean): Promise<void>
  /** Hands no zone over. */
  close?(is: boolean): void
  stop(): unknown
}

/** Random numbers that are the same again for a seed. */
function random(seed: number): () => number {
  let state = (seed * 2_654_435_761) >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32
  }
}

export type Step =
  | { do: 'command' | 'byHand' | 'others'; view: number; key: Key; value: string | undefined }
  | { do: 'publish'; view: number; how: Publish }
  | { do: 'cut'; view: number; how: Publish; message: number; isDone: boolean }
  | { do: 'kill'; view: number; how: Publish; call: number }
  | { do: 'adopt'; view: number; key: Key }
  | { do: 'restore'; view: number; back: number }
  | { do: 'reread'; view: number }

interface Setting {
  views: (string | undefined)[]
  /** The server hands no zone over. */
  isClosed: boolean
  isAdopted: boolean
}

export interface Played {
  steps: Step[]
  failure?: string
  /** How often each was said. */
  said: Record<Verdict | 'cut', number>
}

export interface Around {
  judged(text: string, n: number): Promise<Judged>
  /** Steps that are not played there. */
  without?: Step['do'][]
  length?: number
  /** It hands its zone over always. */
  isOpen?: boolean
}

const bare = (view: string | undefined): string => view ?? 'only'

export async function play(seed: number, around: Around): Promise<Played> {
  const rnd = random(seed)
  const pick = <T>(of: readonly T[]): T => of[Math.floor(rnd() * of.length)]!
  const setting: Setting = {
    views: rnd() < 0.25 ? ['inside', 'outside'] : [undefined],
    isClosed: rnd() < 0.1 && !around.isOpen,
    isAdopted: rnd() < 0.7,
  }
  const keys = setting.isClosed ? KEYS.filter((key) => ownerOf(key) !== 'dual') : KEYS
  const world = await World.make(setting, keys, pick, around, rnd)
  const played: Played = { steps: [], said: { nothing: 0, mine: 0, theirs: 0, conflict: 0, cut: 0 } }
  try {
    for (let n = 0; n < (around.length ?? 14) && played.failure === undefined; n++) {
      const step = stepOf(rnd, pick, keys, setting.views.length)
      // What was never known cannot be seen there, so it cannot be removed either.
      if (setting.isClosed && 'how' in step) delete step.how.removeExtra
      if (around.without?.includes(step.do)) continue
      played.steps.push(step)
      try {
        await world.take(step, played)
        await world.judge(played)
      } catch (error) {
        played.failure = `seed ${seed}, ${JSON.stringify(setting)}\n${played.steps.map((each) => JSON.stringify(each)).join('\n')}\n${(error as Error).message}`
      }
    }
  } finally {
    await world.stop(played.failure !== undefined && process.env.KEEP !== undefined)
  }
  return played
}

function stepOf(rnd: () => number, pick: <T>(of: readonly T[]) => T, keys: readonly Key[], views: number): Step {
  const view = Math.floor(rnd() * views)
  const key = pick(keys)
  const value = rnd() < 0.3 ? undefined : pick(UNIVERSE[key]!)
  const how: Publish = {
    ...(rnd() < 0.2 ? { only: ownerOf(pick(keys)) } : {}),
    ...(rnd() < 0.2 ? { overwrite: true } : {}),
    ...(rnd() < 0.1 ? { removeExtra: true } : {}),
  }
  const what = rnd()
  if (what < 0.2) return { do: 'command', view, key, value }
  if (what < 0.35) return { do: 'byHand', view, key, value }
  if (what < 0.55) return { do: 'others', view, key, value }
  if (what < 0.8) return { do: 'publish', view, how }
  if (what < 0.845) return { do: 'cut', view, how, message: 1 + Math.floor(rnd() * 3), isDone: rnd() < 0.5 }
  if (what < 0.87) return { do: 'kill', view, how, call: 1 + Math.floor(rnd() * 60) }
  if (what < 0.94) return { do: 'adopt', view, key }
  if (what < 0.98) return { do: 'restore', view, back: Math.floor(rnd() * 3) }
  return { do: 'reread', view }
}

/** Lines of a zone file. */
const linesOf = (state: State, isWanted: (key: Key) => boolean): string =>
  [...state]
    .filter(([key]) => isWanted(key))
    .flatMap(([key, value]) => {
      const [owner, type] = key.split(' ')
      const [, ttl, values] = /^(\d+) (.*)$/.exec(value)!
      return values!.split('|').map((each) => `${owner} ${ttl} IN ${type} ${each}\n`)
    })
    .join('')

export const zoneText = (state: State, serial: number): string =>
  `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster ${serial} 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n${linesOf(state, () => true)}`

class World {
  private readonly folder: string
  private readonly setting: Setting
  private readonly judged: Judged[] = []
  private readonly sides: Side[] = []
  /** States before changes, by the ids of their entries. */
  private readonly before: { id: string; state: State }[][] = []

  private constructor(setting: Setting) {
    this.setting = setting
    // Syncing costs nothing there.
    this.folder = mkdtempSync(join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'bramblefront-histories-'))
  }

  static async make(
    setting: Setting,
    keys: readonly Key[],
    pick: <T>(of: readonly T[]) => T,
    around: Around,
    rnd: () => number,
  ): Promise<World> {
    const world = new World(setting)
    const some = (): State => {
      const state: State = new Map()
      for (const key of keys) if (rnd() < 0.5 && !state.has('dual A')) state.set(key, pick(UNIVERSE[key]!))
      return state
    }
    for (const [n] of setting.views.entries()) {
      const there = some()
      const judged = await around.judged(zoneText(there, 2026010101), n)
      world.judged.push(judged)
      const here = setting.isAdopted ? there : some()
      world.sides.push(new Side(here, there, setting.isAdopted))
      world.before.push([])
    }
    world.configure()
    for (const [n, view] of setting.views.entries()) {
      if (setting.isAdopted) {
        const args = ['adopt', ZONE, '--from', `127.0.0.1:${world.judged[n]!.port}`]
        const ran = await callHere(world.folder, ...args, ...(view === undefined ? [] : ['--view', view]))
        if (ran.status !== 0) throw new Error(`adopt: ${ran.stderr}`)
      } else world.writeByHand(n, 2026010101)
      if (setting.isClosed) world.judged[n]!.close?.(true)
    }
    return world
  }

  private configure(): void {
    mkdirSync(join(this.folder, 'zones'), { recursive: true })
    const { views } = this.setting
    const zones = views.map((view) =>
      view === undefined || this.setting.isAdopted
        ? ''
        : `  - {zone: ${ZONE}, file: zones/${view}/${ZONE}.zone, view: ${view}}\n`,
    )
    const deliveries = views.map(
      (view, n) =>
        `  - {label: to-${bare(view)}, zones: ["*"], by: update, address: 127.0.0.1, port: ${this.judged[n]!.port}${view === undefined ? '' : `, view: ${view}`}}\n`,
    )
    const patterns = views[0] === undefined ? '  - zones/*.zone\n' : ''
    const list = zones.join('') + patterns
    writeFileSync(
      join(this.folder, 'bramblefront.yaml'),
      `zones:${list === '' ? ' []' : `\n${list}`}\ndeliveries:\n${deliveries.join('')}`,
    )
  }

  private fileOf(n: number): string {
    const view = this.setting.views[n]
    return join(this.folder, 'zones', ...(view === undefined ? [] : [view]), `${ZONE}.zone`)
  }

  /** Both files anew: what is in the included one, and the rest. */
  private writeByHand(n: number, serial: number): void {
    const { intended } = this.sides[n]!
    const file = this.fileOf(n)
    mkdirSync(join(file, '../parts'), { recursive: true })
    writeFileSync(
      join(file, '../parts/hosts'),
      linesOf(intended, (key) => INCLUDED.has(key)),
    )
    const own = new Map([...intended].filter(([key]) => !INCLUDED.has(key)))
    writeFileSync(file, `${zoneText(own, serial)}$INCLUDE parts/hosts\n`)
  }

  private serialOf(n: number): number {
    return Number(/SOA[^;]*?(\d{10})/.exec(readFileSync(this.fileOf(n), 'utf8'))![1])
  }

  private call(n: number, ...args: string[]) {
    const view = this.setting.views[n]
    return callHere(this.folder, ...args, ...(view === undefined ? [] : ['--view', view]))
  }

  async take(step: Step, played: Played): Promise<void> {
    const side = this.sides[step.view]!
    const judged = this.judged[step.view]!
    if (step.do === 'command') return this.command(step.view, step.key, step.value)
    if (step.do === 'byHand') {
      // Nobody edits a file while a change of it is not finished.
      if (existsSync(join(this.folder, '.bramblefront.journal')))
        await this.call(step.view, 'remove', `nowhere.${ZONE}`, 'A', '--zone', ZONE, '--json')
      setOrDelete(side.intended, step.key, step.value)
      if (step.value !== undefined) for (const key of KEYS) if (isBeside(key, step.key)) side.intended.delete(key)
      return this.writeByHand(step.view, this.serialOf(step.view) + 1)
    }
    if (step.do === 'others') {
      if (step.value !== undefined)
        for (const key of KEYS)
          if (isBeside(key, step.key) && side.server.has(key)) {
            await judged.others(key, undefined)
            side.others(key, undefined)
          }
      await judged.others(step.key, step.value)
      return side.others(step.key, step.value)
    }
    if (step.do === 'publish') return this.publish(step.view, step.how)
    if (step.do === 'cut') {
      const hangs = judged.hang!(step.message, step.isDone)
      const isCut = await this.cutShort(step.view, step.how, { hangs })
      if (isCut) played.said.cut++
      return
    }
    if (step.do === 'kill') {
      const isCut = await this.cutShort(step.view, step.how, { call: step.call })
      if (isCut) played.said.cut++
      return
    }
    if (step.do === 'adopt') return this.adopt(step.view, step.key)
    if (step.do === 'restore') return this.restore(step.view, step.back)
    // All of it is read again, whatever the serial is.
    await this.call(step.view, 'publish', ZONE, '--yes', '--json', '--force', '--only', '@')
    side.published({ only: '@' })
  }

  private async command(n: number, key: Key, value: string | undefined): Promise<void> {
    const side = this.sides[n]!
    const [owner, type] = key.split(' ') as [string, string]
    const name = owner === '@' ? ZONE : `${owner}.${ZONE}`
    const rest = ['--zone', ZONE, '--force', '--json']
    const remove = async (which: Key): Promise<void> => {
      if (!side.intended.has(which)) return
      const was = new Map(side.intended)
      await this.done(n, ['remove', name, which.split(' ')[1]!, ...rest])
      side.intended.delete(which)
      this.noteBefore(n, was)
    }
    if (value === undefined) return remove(key)
    for (const other of KEYS) if (isBeside(other, key)) await remove(other)
    if (side.intended.get(key) === value) return
    const was = new Map(side.intended)
    const [, ttl, values] = /^(\d+) (.*)$/.exec(value)!
    await this.done(n, ['write', 'record', name, type, ...values!.split('|'), '--ttl', ttl!, ...rest])
    side.intended.set(key, value)
    this.noteBefore(n, was)
  }

  private async done(n: number, args: string[]): Promise<void> {
    const ran = await this.call(n, ...args)
    if (ran.status !== 0) throw new Error(`${args.join(' ')} ended with ${ran.status}: ${ran.stderr}${ran.stdout}`)
  }

  /** The newest change of the log, and what stood before it. */
  private noteBefore(n: number, state: State): void {
    const lines = readFileSync(join(this.folder, 'log.jsonl'), 'utf8').trim().split('\n')
    // A call that was killed may have left half a line.
    const whole = lines.filter((line) => line.endsWith('}')).map((line) => JSON.parse(line))
    const last = whole.findLast(({ what }) => what === 'change')
    this.before[n]!.push({ id: last.id, state })
  }

  private async publish(n: number, how: Publish): Promise<void> {
    const side = this.sides[n]!
    side.look()
    const sends = side.toSend(how)
    const plan = [...side.plan(how)].filter(([key]) => how.only === undefined || ownerOf(key) === how.only)
    const isRefused = !how.overwrite && plan.some(([, verdict]) => verdict === 'conflict')
    const view = this.setting.views[n]
    const isUnsure = side.isUnsure
    const ran = await callHere(this.folder, ...publishArgs(how), ...(view === undefined ? [] : ['--view', view]))
    const isUnknown =
      how.only !== undefined && ran.status === 2 && /there are no record sets at this name/.test(ran.stderr)
    if (isUnknown) {
      if (side.intended.size > 0 && [...side.intended.keys()].some((key) => ownerOf(key) === how.only))
        throw new Error(`--only ${how.only} is said to be unknown`)
      return
    }
    if (isUnsure) {
      // Either may be said; what is there then is the truth.
      side.server = await this.judged[n]!.state()
      side.observe()
      if (ran.status === 0 && how.only === undefined) side.first = false
      return
    }
    side.published(how)
    const there = await this.judged[n]!.state()
    expectSame('the server', there, side.server)
    const expected = isRefused ? 1 : 0
    if (ran.status !== expected)
      throw new Error(
        `publish ended with ${ran.status}, not ${expected} (${sends.join(', ')}): ${ran.stderr}${ran.stdout}`,
      )
  }

  /** A call in a process of its own, which is killed while it waits for an answer, or at one of its file calls. Whether it was. */
  private async cutShort(
    n: number,
    how: Publish,
    { hangs, call }: { hangs?: Promise<void>; call?: number },
  ): Promise<boolean> {
    const side = this.sides[n]!
    const judged = this.judged[n]!
    const view = this.setting.views[n]
    const args = [...publishArgs(how), ...(view === undefined ? [] : ['--view', view]), '--timeout', '100']
    const faults = call === undefined ? [] : ['--require', resolve('bench/faults.cjs')]
    const child = spawn(process.execPath, [...faults, resolve('dist/bramblefront.js'), ...args], {
      cwd: this.folder,
      stdio: 'ignore',
      env: { ...process.env, ...(call === undefined ? {} : { FAULT_KIND: 'kill', FAULT_AT: String(call) }) },
    })
    const ended = new Promise<boolean>((done) => child.on('close', (_, signal) => done(signal !== null)))
    if (hangs) void hangs.then(() => child.kill('SIGKILL'))
    const isCut = await ended
    // Who comes next need not wait until the lock of a dead process counts for nothing.
    if (isCut) rmSync(join(this.folder, '.bramblefront.lock'), { recursive: true, force: true })
    judged.hang?.(0, false)
    const there = await judged.state()
    if (isCut) side.cutShort(how, there)
    else {
      const isUnsure = side.isUnsure
      const isKnown =
        how.only === undefined ||
        [...there.keys(), ...side.intended.keys(), ...side.base.keys()].some((key) => ownerOf(key) === how.only) ||
        how.only === '@'
      if (isKnown) side.published(how)
      if (isUnsure) {
        side.server = there
        side.observe()
      } else expectSame('the server', there, side.server)
    }
    return isCut
  }

  private async adopt(n: number, key: Key): Promise<void> {
    const side = this.sides[n]!
    const [owner, type] = key.split(' ') as [string, string]
    const name = owner === '@' ? '@' : owner
    const label = `to-${bare(this.setting.views[n])}`
    const was = new Map(side.intended)
    await this.done(n, ['adopt', ZONE, name, type, '--from', label, '--yes', '--force', '--json'])
    const there = side.server.get(key)
    if (there === side.intended.get(key)) return
    setOrDelete(side.intended, key, there)
    if (there !== undefined) for (const other of KEYS) if (isBeside(other, key)) side.intended.delete(other)
    this.noteBefore(n, was)
  }

  private async restore(n: number, back: number): Promise<void> {
    const entry = this.before[n]!.at(-1 - back)
    if (!entry) return
    await this.done(n, ['restore', ZONE, '--from', entry.id, '--yes', '--force', '--json'])
    this.sides[n]!.intended = new Map(entry.state)
  }

  /** What the program would do now, held against the model. */
  async judge(played: Played): Promise<void> {
    for (const [n, side] of this.sides.entries()) {
      const { status, json, stderr } = await this.call(n, 'publish', ZONE, '--dry-run', '--json', '--force')
      if (status === 2) throw new Error(`publish --dry-run: ${stderr}`)
      const { sent, foreign, conflicts } = json()
      const said = new Map<Key, Verdict>()
      const take = (sets: { owner: string; type: string }[], verdict: Verdict): void => {
        for (const { owner, type } of sets)
          if (type !== 'SOA' && type !== 'NS') said.set(`${shortName(owner)} ${type}`, verdict)
      }
      take(foreign, 'theirs')
      take(sent, 'mine')
      take(conflicts, 'conflict')
      for (const [key, verdict] of this.lookedAt(side)) {
        const other = said.get(key) ?? 'nothing'
        played.said[verdict]++
        if (other !== verdict && !side.unsure.has(key))
          throw new Error(
            `${bare(this.setting.views[n])}: ${key} is ${verdict} (intended ${side.intended.get(key)}, there ${side.server.get(key)}, base ${side.base.get(key)}), the program says ${other}`,
          )
      }
      for (const key of said.keys())
        if (!side.intended.has(key) && !side.server.has(key) && !side.base.has(key) && !side.unsure.has(key))
          throw new Error(`${key} is nowhere, and the program says ${said.get(key)}`)
    }
  }

  /** The plan, as far as it can be seen: where no zone is handed over, what was never known here cannot be. */
  private lookedAt(side: Side): [Key, Verdict][] {
    // What was sent and is there is ours: the program looks before it says anything.
    const look = new Side(new Map(side.intended), new Map(side.server), false)
    look.base = new Map(side.base)
    look.first = side.first
    for (const [key, after] of side.sent) if (side.server.get(key) === after) setOrDelete(look.base, key, after)
    return [...look.plan()].filter(([key]) => !this.setting.isClosed || side.intended.has(key) || look.base.has(key))
  }

  async stop(isKept: boolean): Promise<void> {
    for (const each of this.judged) await each.stop()
    if (isKept) console.log(this.folder)
    else rmSync(this.folder, { recursive: true, force: true })
  }
}

const isBeside = (a: Key, b: Key): boolean =>
  a !== b && ownerOf(a) === 'dual' && ownerOf(b) === 'dual' && a.endsWith('CNAME') !== b.endsWith('CNAME')

const shortName = (owner: string): string => (owner === `${ZONE}.` ? '@' : owner.slice(0, -ZONE.length - 2))

const publishArgs = ({ only, overwrite, removeExtra }: Publish): string[] => [
  'publish',
  ZONE,
  '--yes',
  '--json',
  '--force',
  ...(only === undefined ? [] : ['--only', only]),
  ...(overwrite ? ['--overwrite'] : []),
  ...(removeExtra ? ['--remove-extra'] : []),
]

function expectSame(what: string, is: State, expected: State): void {
  for (const key of new Set([...is.keys(), ...expected.keys()]))
    if (is.get(key) !== expected.get(key))
      throw new Error(`${what} has ${key} ${is.get(key)}, not ${expected.get(key)}`)
}

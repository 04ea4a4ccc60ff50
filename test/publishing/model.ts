/**
 * Both sides of a delivery, by what publishing is meant to be, and by nothing of the program: what is intended, what the server has, and what both last had
 * (the base). It imports nothing from `src`.
 */

/** `NAME TYPE`, and what such a set holds: its TTL and its values, as one text. */
export type Key = string
export type State = Map<Key, string>
export type Verdict = 'nothing' | 'mine' | 'theirs' | 'conflict'

export const ownerOf = (key: Key): string => key.split(' ')[0]!

/** Sets that cannot stand beside one another: a CNAME and everything else. */
export const excludes = (a: Key, b: Key): boolean =>
  a !== b && ownerOf(a) === ownerOf(b) && a.endsWith(' CNAME') !== b.endsWith(' CNAME')

export interface Publish {
  only?: string
  overwrite?: boolean
  removeExtra?: boolean
}

export class Side {
  intended: State
  server: State
  base: State = new Map()
  /** Nothing is known of sets that are not in the base: the first publication is not through. */
  first: boolean
  /** What was sent by a call that was cut short, for which a look at the server is the only witness. */
  sent: State & Map<Key, string | undefined> = new Map()
  /** Sets that were sent by a call that was cut short, and that others changed before anybody could look: what both sides had last is not known, until both have the same. */
  readonly unsure = new Set<Key>()

  constructor(intended: State, server: State, isAdopted: boolean) {
    this.intended = new Map(intended)
    this.server = new Map(server)
    this.first = !isAdopted
    if (isAdopted) this.base = new Map(server)
  }

  verdict(key: Key, { removeExtra }: Publish = {}): Verdict {
    const [wanted, there, was] = [this.intended.get(key), this.server.get(key), this.base.get(key)]
    if (wanted === there) return 'nothing'
    if (this.first && was === undefined) return wanted !== undefined || removeExtra ? 'mine' : 'theirs'
    if (was === there) return 'mine'
    if (was !== wanted) return 'conflict'
    return removeExtra && was === undefined ? 'mine' : 'theirs'
  }

  /** What is to be done of every set that either side has. */
  plan(how: Publish = {}): Map<Key, Verdict> {
    const keys = new Set([...this.intended.keys(), ...this.server.keys(), ...this.base.keys()])
    const plan = new Map([...keys].map((key) => [key, this.verdict(key, how)]))
    for (const [key, verdict] of plan) {
      const isInTheWay = [...plan].some(
        ([other, what]) => (what === 'mine' || what === 'conflict') && this.intended.has(other) && excludes(other, key),
      )
      if (verdict === 'theirs' && this.server.has(key) && isInTheWay) plan.set(key, 'conflict')
    }
    return plan
  }

  /** What a publication sends: nothing at all where something would be overwritten. */
  toSend(how: Publish): Key[] {
    const meant = [...this.plan(how)].filter(([key]) => how.only === undefined || ownerOf(key) === how.only)
    if (!how.overwrite && meant.some(([, verdict]) => verdict === 'conflict')) return []
    return meant.filter(([, verdict]) => verdict === 'mine' || verdict === 'conflict').map(([key]) => key)
  }

  /** The server is looked at: what was sent and is there is ours. */
  look(): void {
    for (const [key, after] of this.sent) if (this.server.get(key) === after) setOrDelete(this.base, key, after)
  }

  /** Both sides are looked at: what they both have is the base. */
  observe(): void {
    this.look()
    this.sent.clear()
    for (const key of new Set([...this.intended.keys(), ...this.base.keys(), ...this.unsure])) {
      if (this.intended.get(key) !== this.server.get(key)) continue
      setOrDelete(this.base, key, this.intended.get(key))
      this.unsure.delete(key)
    }
  }

  /** A publication that went through; the server is what it is then. */
  published(how: Publish): void {
    this.look()
    const isRefused = [...this.plan(how)].some(
      ([key, verdict]) =>
        verdict === 'conflict' && !how.overwrite && (how.only === undefined || ownerOf(key) === how.only),
    )
    for (const key of this.toSend(how)) setOrDelete(this.server, key, this.intended.get(key))
    this.observe()
    if (!isRefused && how.only === undefined) this.first = false
  }

  /** A publication that was cut short: what it sent may be there. */
  cutShort(how: Publish, server: State): void {
    this.look()
    const sending = this.toSend(how)
    // It looked before it sent; whether it came to write that down is not known.
    const before = new Map(this.base)
    this.observe()
    for (const key of new Set([...before.keys(), ...this.base.keys()]))
      if (before.get(key) !== this.base.get(key)) this.unsure.add(key)
    for (const key of sending) this.sent.set(key, this.intended.get(key)!)
    this.server = server
  }

  /** Somebody else changes the server. */
  others(key: Key, value: string | undefined): void {
    if (this.sent.has(key)) this.unsure.add(key)
    setOrDelete(this.server, key, value)
  }

  get isUnsure(): boolean {
    return this.unsure.size > 0
  }
}

export function setOrDelete(state: State, key: Key, value: string | undefined): void {
  if (value === undefined) state.delete(key)
  else state.set(key, value)
}

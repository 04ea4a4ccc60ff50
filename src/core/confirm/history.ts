/**
 * The states that a record set was in, by kept copies of the zone and by what was seen at its servers; and until when caches may hold each of them.
 * A cache can have fetched a state as long as a server answered so, and keeps it for its TTL: each state ends by itself, whatever came after it.
 */
import { createHash } from 'node:crypto'
import type { Seconds } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import type { Rdata } from '../records/rdata.ts'
import { type Earlier, type Past, pastOf, type Question } from './questions.ts'
import { sameness } from './sameness.ts'

/** A state seen at servers of the zone: its digest, its TTL, and whether all of them had it. */
export interface Sighting {
  /** Seconds since 1970. */
  at: number
  digest: string
  ttl: Seconds
  all: boolean
  /** It is what a change wrote, and not what was seen. */
  written?: boolean
}

/** What was seen of sets before. */
export interface Seen {
  /** The states that servers of the zone were seen to have, oldest first. */
  sightings(set: Pick<Question, 'owner' | 'type'>): readonly Sighting[]
}

/** A state that the set was in and is no more. */
export interface State {
  digest: string
  /** The TTL of the data, or of the alias; how long the denial could be kept. */
  ttl: Seconds
  /** How long caches may keep an answer made of it, aliases on the way included. */
  held: Seconds
  /** It was intended once; others were only seen at a server. */
  intended: boolean
  /** When the file stopped saying so, or when it was last seen at a server. Seconds since 1970. */
  until: number
  /** When all servers were first seen to have another state; undefined where nobody saw that before now. */
  gone?: number
}

/** A short text that is equal for answers that count as the same, whatever their TTL. Nothing at all is `none`. */
export function digestOf(
  question: Pick<Question, 'owner' | 'type'>,
  { data, alias }: { data?: readonly Rdata[]; alias?: Name },
): string {
  if (!data?.length && alias === undefined) return 'none'
  const text = !data?.length
    ? `alias ${foldName(alias!)}`
    : data.length === 1
      ? sameness(question, data[0]!)
      : [...new Set(data.map((each) => sameness(question, each)))].sort().join('\n')
  // Short ones stand for themselves: hashing thousands of addresses costs more than asking for them.
  return text.length <= SHORT
    ? `=${Buffer.from(text).toString('base64url')}`
    : createHash('sha256').update(text).digest('hex').slice(0, 12)
}

const SHORT = 32

/** The state that is intended now. */
export function intendedState(question: Question): Pick<State, 'digest' | 'ttl'> {
  const { intended, alias, negativeTtl = 0 } = question
  if (!intended && alias) return { digest: digestOf(question, { alias: alias.to }), ttl: alias.ttl }
  return { digest: digestOf(question, intended ?? {}), ttl: intended?.ttl ?? negativeTtl }
}

export interface History {
  /** What the set was before, and is not now; newest first. */
  states: State[]
  /** When all servers were first seen to have it as it is intended now, since when nothing else was seen or intended. */
  publishedAt?: number
  /** Whether any earlier state is known at all. */
  any: boolean
}

const NO_HISTORY: History = { states: [], any: false }

/** What is known of a set’s past: by kept copies of the zone, newest first, and by what was seen, oldest first. */
export function historyOf(question: Question, earlier: readonly Earlier[], sightings: readonly Sighting[]): History {
  if (earlier.length === 0 && sightings.length === 0) return NO_HISTORY
  const now = intendedState(question)
  // Nearly every one of thousands was only ever seen as it is intended.
  if (earlier.length === 0 && sightings.length === 1) {
    const { digest, ttl, all, at } = sightings[0]!
    if (all && ttl === now.ttl && digest === now.digest) return { any: true, states: [], publishedAt: at }
  }
  const isNow = ({ digest, ttl }: Pick<State, 'digest' | 'ttl'>): boolean =>
    digest === now.digest && (ttl === now.ttl || digest === 'none')
  const all: State[] = [
    ...pastOf(question, earlier).map((past) => ofCopy(question, past)),
    ...sightings.map(({ digest, ttl, at, all, written = false }) => ({
      digest,
      ttl,
      held: ttl,
      until: at,
      intended: all || written,
    })),
  ]
  const others = all.filter((state) => !isNow(state))
  const lastOther = others.reduce((last, { until }) => Math.max(last, until), Number.NEGATIVE_INFINITY)
  const ends = (state: State): number | undefined =>
    sightings.find((each) => each.all && each.at >= state.until && !isSame(each, state))?.at
  return {
    any: all.length > 0,
    publishedAt: sightings.find((each) => each.all && isNow(each) && each.at >= lastOther)?.at,
    states: others.map((state) => ({ ...state, gone: ends(state) })).sort((a, b) => b.until - a.until),
  }
}

const isSame = (a: Pick<State, 'digest' | 'ttl'>, b: Pick<State, 'digest' | 'ttl'>): boolean =>
  a.digest === b.digest && a.ttl === b.ttl

function ofCopy(question: Question, { data, alias, ttl, setTtl, until }: Past): State {
  return { digest: digestOf(question, { data, alias }), ttl: setTtl ?? ttl, held: ttl, until, intended: true }
}

/** Whether a cache that holds the state answers otherwise than intended now: other data, or the same for longer. */
export function matters(state: State, question: Question): boolean {
  const now = intendedState(question)
  return state.digest !== now.digest || (state.digest !== 'none' && state.ttl > now.ttl)
}

/** Caches count whole seconds, and some still answer in the one in which a TTL comes to 0. */
const LAST_SECOND = 1

/** When a cache lets go of what it got at `from` with this TTL. */
export const letGo = (from: number, ttl: Seconds): number => from + ttl + LAST_SECOND

/**
 * When the last cache lets go of a state. `delegation`: until when caches may go on asking the servers of an earlier delegation, which may have it still.
 * Where nobody saw the servers give it up before, they did by `now` at the latest; nothing was seen later than now, whatever a clock said.
 */
export const expiryOf = ({ gone, held }: State, now: number, delegation = Number.NEGATIVE_INFINITY): number =>
  letGo(Math.max(Math.min(gone ?? now, now), delegation), held)

/** How long caches may still have any of the states that a set was in. */
export interface Wait {
  /** When the last of them lets go, if all servers have the set as it is intended by now; `now` where none may have any. */
  end: number
  /** Whether all servers were seen to give each of them up: else the end is the latest possible one. */
  seen: boolean
  /** Those that some cache may still have. */
  left: State[]
}

/** What both `confirm` and `timing` say of the time that a change takes. `states`: those that matter. */
export function waitFor(states: readonly State[], now: number, delegation?: number): Wait {
  const left = states.filter((each) => expiryOf(each, now, delegation) > now)
  return {
    left,
    end: left.reduce((last, each) => Math.max(last, expiryOf(each, now, delegation)), now),
    seen: left.every(({ gone }) => gone !== undefined),
  }
}

/** What earlier confirmations saw: the states of each set at its servers, their serials, and since when a vantage has been saying what it says. Kept as lines of a log. */
import { type DataEntry, type EntrySide, isDataEntry, sideSet } from '../change/entry.ts'
import { serialAfter } from '../file/serial.ts'
import type { Seconds, Zone } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { typeText } from '../records/types.ts'
import { delegationIsThrough, longestNsTtl } from './delegation.ts'
import { digestOf, historyOf, intendedState, type Sighting, type State } from './history.ts'
import type { Question } from './questions.ts'
import type { ConfirmedSet } from './status.ts'
import type { Verdict } from './verdict.ts'
import { nsQuestion, type ZoneState } from './zone-state.ts'

/** One line of the log. Names are lower case, times ISO 8601. */
export type LogLine =
  | {
      id?: string
      at: string
      what: 'published'
      /** `seen`: all servers had it; `update`, `file`: it was delivered to one. */
      by: 'seen' | 'update' | 'file'
      command?: string
      /** By which delivery of bramblefront.yaml, and where to. */
      delivery?: string
      server?: string
      /** Which call it belongs to, where that sent several messages. */
      run?: string
      zone: Name
      view?: string
      serial: number | null
      /** All servers have all of the zone: the digest of its data, and (once it is kept) the copy of its file, as entries of changes have them. */
      all?: true
      digest?: string
      file?: string
      backup?: string
      sum?: string
      whole?: string
      wholeSum?: string
      /** Sets that all authoritative servers were first seen to have: owner, type, and their state, as a short digest of what they have (`none` for nothing), a slash, and its TTL. */
      sets: [Name, string, string][]
    }
  | {
      id?: string
      at: string
      what: 'confirmation'
      zone: Name
      view?: string
      /** The one name that was asked for; null where all of the zone was. */
      about: Name | null
      serial: number | null
      vantages: string[]
      counts: Record<string, number>
      /** That of the zone’s data. */
      digest?: string
      /** The serials of the zone’s servers. */
      serials?: Record<string, number>
      /** How long caches keep the delegation, by parent and child: seconds. */
      nsTtl?: number
      /** Sets that are not confirmed; at each vantage that did not answer as intended, its verdict, and at servers of the zone the state that came. */
      open: {
        owner: Name
        type: string
        status: string
        until: string | null
        verdicts: Record<string, Verdict>
        came?: Record<string, string>
      }[]
    }

/** What is noted of a confirmation of a zone. */
export interface Noted {
  zone: Zone
  /** The one name that was asked for, if it was one. */
  about?: Name
  sets: readonly ConfirmedSet[]
  /** The zone's own SOA and NS records. */
  own?: readonly ConfirmedSet[]
  vantages: readonly string[]
  /** What its servers and its parent zone say of it. */
  state?: ZoneState
  /** Seconds since 1970. */
  now: number
  /** Whether perhaps not all servers of the zone were asked: then it is not kept what they have. */
  some?: boolean
  /** The digest of the zone’s data; where it is stated, it is kept that all servers have all of it. */
  digest?: string
}

/** Since when a vantage has been saying something, and what was promised of it then. */
interface Run {
  at: number
  until?: number
}

const keyOf = ({ owner, type }: Pick<Question, 'owner' | 'type'>): string => `${foldName(owner)} ${typeText(type)}`
const stateText = ({ digest, ttl }: Pick<State, 'digest' | 'ttl'>): string => `${digest}/${ttl}`

export class Memory {
  private readonly sets = new BySet<Seen>()
  private readonly running = new Map<string, Map<string, Run>>()
  /** By zone: each serial that a server was seen with, and when first; later ones than it has now are forgotten, since it went back. */
  private readonly serials = new Map<Name, { vantage: string; serial: number; at: number }[]>()
  private readonly nsTtls = new Map<Name, Seconds>()
  /** The sets of each zone of which something is running. */
  private readonly open = new Map<Name, Set<string>>()
  private readonly digests = new Map<Name, string>()
  private readonly published = new Map<Name, string>()
  /** By zone: since when all states of its data are known, and the digest of the last one. */
  private readonly known = new Map<Name, { since: number; digest: string }>()

  /**
   * Takes up the lines of a log, oldest first; what is none of its lines, or of another view than the stated one, is passed over. A line of a time after `now`
   * (seconds since 1970), which a clock that was wrong put there, was written before the next one of a time that can be, and counts as of that.
   */
  constructor(lines: Iterable<unknown> = [], view?: string, now = Number.POSITIVE_INFINITY) {
    const own = [...lines].filter(
      (line): line is LogLine | DataEntry =>
        (isDataEntry(line) || isLogLine(line)) && (view === undefined || line.view === undefined || line.view === view),
    )
    const times = own.map(({ at }) => Date.parse(at) / 1000)
    let next = now
    for (let i = times.length - 1; i >= 0; i--)
      if (times[i]! > now) times[i] = next
      else next = times[i]!
    for (const [i, line] of own.entries()) this.take(line, times[i]!)
  }

  /** The states that servers of the zone were seen to have, oldest first. */
  sightings(set: Pick<Question, 'owner' | 'type'>): readonly Sighting[] {
    const { seen = NEVER, written } = this.sets.get(set.owner, typeText(set.type)) ?? NOTHING
    return written ? [...seen, ...written.flatMap((each) => sightingOf(set, each))] : seen
  }

  /** Whether a zone has other data than its newest entry left; `digest` is that of its data now. */
  isOther(zone: Name, digest: string): boolean {
    const last = this.digests.get(foldName(zone))
    return last !== undefined && last !== digest
  }

  /**
   * Since when every state of a zone's data is known: since it was first seen, or since an edit by hand was. Undefined where it is not the one that was seen last.
   * `digest` is that of its data now.
   */
  knownSince(zone: Name, digest: string): number | undefined {
    const known = this.known.get(foldName(zone))
    return known?.digest === digest ? known.since : undefined
  }

  /** Since when all servers have the set as it is intended now, by what was seen alone: seconds since 1970. */
  publishedAt(question: Question): number | undefined {
    return historyOf(question, [], this.sightings(question)).publishedAt
  }

  /** Since when a vantage has been giving a verdict, without a break in what was seen: seconds since 1970. */
  since(set: Pick<Question, 'owner' | 'type'>, vantage: string, verdict: Verdict): number | undefined {
    return this.running.get(keyOf(set))?.get(`${vantage} ${verdict}`)?.at
  }

  /** Until when that was to last, by what was said first. */
  promised(set: Pick<Question, 'owner' | 'type'>, vantage: string, verdict: Verdict): number | undefined {
    return this.running.get(keyOf(set))?.get(`${vantage} ${verdict}`)?.until
  }

  /** Since when some server of the zone has been seen with a later serial than this one. */
  laterThan(zone: Name, serial: number): number | undefined {
    const later = this.serials.get(foldName(zone))?.filter((each) => serialAfter(each.serial, serial)) ?? []
    return later.length > 0 ? Math.min(...later.map(({ at }) => at)) : undefined
  }

  /** How long caches keep the delegation of a zone, as parent and child were last seen to say: seconds. */
  nsTtl(zone: Name): Seconds {
    return this.nsTtls.get(foldName(zone)) ?? 0
  }

  /** Notes what a confirmation saw, and returns the lines to keep of it. */
  note({ zone, about, sets, own = [], vantages, state, now, some, digest }: Noted): LogLine[] {
    const at = new Date(now * 1000).toISOString()
    const ofZone = { zone: foldName(zone.name), ...(zone.view === undefined ? {} : { view: zone.view }) }
    const fresh = sets.filter((each) => isStated(each) && each.publishedAt === undefined && isEverywhere(each))
    const questions = fresh.map(({ question }) => question)
    const ns = state && nsQuestion(zone, state.intended)
    if (ns && delegationIsThrough(state) && historyOf(ns, [], this.sightings(ns)).publishedAt === undefined)
      questions.push(ns)
    const serial = state?.intended.soa?.serial ?? null
    const serials = (state?.servers ?? []).flatMap(({ vantage, soa }) => (soa ? [[vantage, soa.serial] as const] : []))
    const lines: LogLine[] = []
    const isWhole = digest !== undefined && !some && about === undefined && own.length + sets.length > 0
    const isAll = isWhole && own.every(isConfirmed) && sets.every(isEverywhere)
    const isNewAll = isAll && this.published.get(foldName(zone.name)) !== digest
    if ((questions.length > 0 || isNewAll) && !some)
      lines.push({
        at,
        what: 'published',
        by: 'seen',
        ...ofZone,
        serial,
        ...(isNewAll ? { all: true, digest } : {}),
        sets: questions.map((question) => [
          foldName(question.owner),
          typeText(question.type),
          stateText(intendedState(question)),
        ]),
      })
    const counts: Record<string, number> = {}
    for (const { status } of sets) counts[status.word] = (counts[status.word] ?? 0) + 1
    lines.push({
      at,
      what: 'confirmation',
      ...ofZone,
      about: about ?? null,
      serial,
      vantages: [...vantages],
      ...(digest === undefined ? {} : { digest }),
      counts,
      ...(serials.length > 0 ? { serials: Object.fromEntries(serials) } : {}),
      ...(state && state.parents.length > 0 ? { nsTtl: longestNsTtl(state) } : {}),
      open: [...sets, ...own].filter((each) => !isConfirmed(each)).map(openOf),
    })
    for (const line of lines) this.take(line, now)
    return lines
  }

  private take(line: LogLine | DataEntry, at: number): void {
    if (line.digest !== undefined) this.takeDigest(line, line.digest, at)
    if (line.what !== 'published' && line.what !== 'confirmation') {
      this.digests.set(foldName(line.zone), line.digest)
      for (const { owner, type, before, after } of line.sets) {
        const known = this.sets.at(owner, type)
        known.written = [...(known.written ?? []), { at, set: before }, { at, set: after }]
      }
      return
    }
    if (line.what === 'published') {
      if (line.all && line.digest !== undefined) this.published.set(foldName(line.zone), line.digest)
      for (const [owner, type, state] of line.sets) this.sight(owner, type, state, at, line.by === 'seen')
      return
    }
    for (const [vantage, serial] of Object.entries(line.serials ?? {})) {
      const known = (this.serials.get(line.zone) ?? []).filter(
        (each) => each.vantage !== vantage || !serialAfter(each.serial, serial),
      )
      if (!known.some((each) => each.vantage === vantage && each.serial === serial)) known.push({ vantage, serial, at })
      this.serials.set(line.zone, known)
    }
    if (typeof line.nsTtl === 'number') this.nsTtls.set(line.zone, line.nsTtl)
    const open = new Map(line.open.map((each) => [`${each.owner} ${each.type}`, each]))
    const running = this.open.get(line.zone) ?? new Set()
    for (const key of running)
      if ((line.about === null || key.startsWith(`${line.about} `)) && !open.has(key)) {
        this.running.delete(key)
        running.delete(key)
      }
    this.open.set(line.zone, running)
    for (const [key, { owner, type, verdicts, until, came }] of open) {
      running.add(key)
      for (const state of new Set(Object.values(came ?? {}))) this.sight(owner, type, state, at, false)
      const before = this.running.get(key)
      const promised = typeof until === 'string' ? Date.parse(until) / 1000 : undefined
      this.running.set(
        key,
        new Map(
          Object.entries(verdicts).map(([vantage, verdict]) => {
            const run = before?.get(`${vantage} ${verdict}`)
            return [`${vantage} ${verdict}`, { at: run?.at ?? at, until: run?.until ?? promised }]
          }),
        ),
      )
    }
  }

  /** A command that changes a zone first notes what was done by hand before: of the states up to its own none is missing. */
  private takeDigest(line: LogLine | DataEntry, digest: string, at: number): void {
    const name = foldName(line.zone)
    const known = this.known.get(name)
    const isByCommand = line.what === 'change' || line.what === 'restored'
    const goesOn = known && (known.digest === digest || (isByCommand && (line.was || known.digest) === known.digest))
    this.known.set(name, { since: goesOn ? known.since : at, digest })
  }

  private sight(owner: Name, type: string, state: string, at: number, all: boolean): void {
    const [digest, text] = state.split('/')
    const ttl = Number(text ?? Number.NaN)
    if (Number.isNaN(ttl)) return
    const known = this.sets.at(owner, type)
    const sighting = { at, digest: digest!, ttl, all }
    if (known.seen) known.seen.push(sighting)
    else known.seen = [sighting]
  }
}

/** What is known of a set: the states that were seen, and those that were written. */
interface Seen {
  seen?: Sighting[]
  written?: { at: number; set: EntrySide | null }[]
}
const NOTHING: Seen = {}

/** Something for each set; by its owner first, whose text is there already. */
class BySet<T extends object> {
  private readonly byOwner = new Map<Name, Map<string, T>>()

  get(owner: Name, type: string): T | undefined {
    return this.byOwner.get(foldName(owner))?.get(type)
  }

  /** What is known of a set; begun where nothing is. */
  at(owner: Name, type: string): T {
    const name = foldName(owner)
    let ofOwner = this.byOwner.get(name)
    if (!ofOwner) this.byOwner.set(name, (ofOwner = new Map()))
    let known = ofOwner.get(type)
    if (!known) ofOwner.set(type, (known = {} as T))
    return known
  }
}

const NEVER: readonly Sighting[] = []

const isConfirmed = ({ status }: ConfirmedSet): boolean => status.word === 'confirmed'

/** Whether all servers of the zone that could be tried have a set as it is intended. */
function isEverywhere({ answers }: ConfirmedSet): boolean {
  const servers = answers.filter(({ role, verdict }) => role === 'authoritative' && verdict !== 'not-tried')
  return servers.length > 0 && servers.every(({ verdict, ofTarget }) => verdict === 'as-intended' && !ofTarget)
}

/** Whether the file says what the set is to be: nothing stands there for some of those that follow a name. */
const isStated = ({ question: { follow, intended } }: Pick<ConfirmedSet, 'question'>): boolean =>
  !follow || intended !== undefined

/** What a change wrote, as a state; nothing where its text cannot be read. */
function sightingOf(
  { owner, type }: Pick<Question, 'owner' | 'type'>,
  { at, set: written }: { at: number; set: EntrySide | null },
): Sighting[] {
  const set = written && sideSet(owner, type, written)
  if (written && !set) return []
  const digest = digestOf({ owner, type }, { data: set?.data ?? [] })
  return [{ at, digest, ttl: written?.ttl ?? 0, all: false, written: true }]
}

type Open = Extract<LogLine, { what: 'confirmation' }>['open'][number]

function openOf({ question, answers, status }: ConfirmedSet): Open {
  const others = answers.filter(({ verdict }) => verdict !== 'as-intended')
  // What is intended now may be another thing by the next call: a server that has it is seen with it.
  const came = answers.flatMap(({ role, vantage, state, verdict, ofTarget }) => {
    const had = verdict === 'as-intended' && isStated({ question }) && !ofTarget ? intendedState(question) : state
    return role === 'authoritative' && had && !question.own ? [[vantage, stateText(had)] as const] : []
  })
  return {
    owner: foldName(question.owner),
    type: typeText(question.type),
    status: status.word,
    until: status.until === undefined ? null : new Date(status.until * 1000).toISOString(),
    verdicts: Object.fromEntries(others.map(({ vantage, verdict }) => [vantage, verdict])),
    ...(came.length > 0 ? { came: Object.fromEntries(came) } : {}),
  }
}

export function isLogLine(line: unknown): line is LogLine {
  const { at, what, zone, sets, open } = (line ?? {}) as Record<string, unknown>
  if (typeof at !== 'string' || Number.isNaN(Date.parse(at)) || typeof zone !== 'string') return false
  if (what === 'published') return Array.isArray(sets) && sets.every((each) => Array.isArray(each) && each.length === 3)
  return (
    what === 'confirmation' &&
    Array.isArray(open) &&
    open.every((each) => typeof each?.owner === 'string' && typeof each.verdicts === 'object' && each.verdicts)
  )
}

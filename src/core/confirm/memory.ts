/** What earlier confirmations saw: from when on all authoritative servers had a set, and since when a vantage has been saying what it says. Kept as lines of a log. */
import { createHash } from 'node:crypto'
import type { Zone } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import { typeText } from '../records/types.ts'
import type { Question } from './questions.ts'
import type { ConfirmedSet } from './status.ts'
import { sameness, type Verdict } from './verdict.ts'

/** One line of the log. Names are lower case, times ISO 8601. */
export type LogLine =
  | {
      at: string
      what: 'published'
      zone: Name
      view?: string
      /** Sets that all authoritative servers were first seen to have: owner, type, and a short digest of what they have; `gone` for what was removed. */
      sets: [Name, string, string][]
    }
  | {
      at: string
      what: 'confirmation'
      zone: Name
      view?: string
      /** The one name that was asked for; null where all of the zone was. */
      about: Name | null
      serial: number | null
      vantages: string[]
      counts: Record<string, number>
      /** Sets that are not confirmed; at each vantage that did not answer as intended, its verdict. */
      open: { owner: Name; type: string; status: string; until: string | null; verdicts: Record<string, Verdict> }[]
    }

/** What is noted of a confirmation of a zone. */
export interface Noted {
  zone: Zone
  /** The one name that was asked for, if it was one. */
  about?: Name
  sets: readonly ConfirmedSet[]
  vantages: readonly string[]
  serial?: number
  /** Seconds since 1970. */
  now: number
  /** Whether perhaps not all servers of the zone were asked: then it is not kept what they have. */
  some?: boolean
}

/** What a set is, in few letters. */
function digestOf(question: Question): string {
  const { intended, type } = question
  if (!intended) return question.follow ? 'follows' : 'gone'
  const hash = createHash('sha256').update(`${type} ${intended.ttl}`)
  for (const key of intended.data.map((data) => sameness(question, data)).sort()) hash.update(`\n${key}`)
  return hash.digest('hex').slice(0, 12)
}

const keyOf = ({ owner, type }: Question): string => `${foldName(owner)} ${typeText(type)}`

export class Memory {
  private readonly published = new Map<string, { at: number; digest: string }>()
  private readonly running = new Map<string, Map<string, number>>()

  /** Takes up the lines of a log, oldest first; what is none of its lines, or of another view than the stated one, is passed over. */
  constructor(lines: Iterable<unknown> = [], view?: string) {
    for (const line of lines)
      if (isLine(line) && (view === undefined || line.view === undefined || line.view === view)) this.take(line)
  }

  /** Since when all authoritative servers have it as it is intended now: seconds since 1970. */
  publishedAt(question: Question): number | undefined {
    const known = this.published.get(keyOf(question))
    return known?.digest === digestOf(question) ? known.at : undefined
  }

  /** Since when a vantage has been giving a verdict, without a break in what was seen. */
  since({ owner, type }: Question, vantage: string, verdict: Verdict): number | undefined {
    return this.running.get(`${foldName(owner)} ${typeText(type)}`)?.get(`${vantage} ${verdict}`)
  }

  /** Notes what a confirmation saw, and returns the lines to keep of it. */
  note({ zone, about, sets, vantages, serial, now, some }: Noted): LogLine[] {
    const at = new Date(now * 1000).toISOString()
    const ofZone = { zone: foldName(zone.name), ...(zone.view === undefined ? {} : { view: zone.view }) }
    const fresh = sets.filter(({ question, answers }) => {
      const servers = answers.filter(({ role, verdict }) => role === 'authoritative' && verdict !== 'not-tried')
      return (
        servers.length > 0 &&
        servers.every(({ verdict }) => verdict === 'as-intended') &&
        this.publishedAt(question) === undefined
      )
    })
    const lines: LogLine[] = []
    if (fresh.length > 0)
      lines.push({
        at,
        what: 'published',
        ...ofZone,
        sets: fresh.map(({ question }) => [foldName(question.owner), typeText(question.type), digestOf(question)]),
      })
    const counts: Record<string, number> = {}
    for (const { status } of sets) counts[status.word] = (counts[status.word] ?? 0) + 1
    lines.push({
      at,
      what: 'confirmation',
      ...ofZone,
      about: about ?? null,
      serial: serial ?? null,
      vantages: [...vantages],
      counts,
      open: sets
        .filter(({ status }) => status.word !== 'confirmed')
        .map(({ question, answers, status }) => ({
          owner: foldName(question.owner),
          type: typeText(question.type),
          status: status.word,
          until: status.until === undefined ? null : new Date(status.until * 1000).toISOString(),
          verdicts: Object.fromEntries(
            answers
              .filter(({ verdict }) => verdict !== 'as-intended')
              .map(({ vantage, verdict }) => [vantage, verdict]),
          ),
        })),
    })
    for (const line of lines) this.take(line)
    return some ? lines.filter(({ what }) => what !== 'published') : lines
  }

  private take(line: LogLine): void {
    const at = Date.parse(line.at) / 1000
    if (line.what === 'published') {
      for (const [owner, type, digest] of line.sets) {
        const known = this.published.get(`${owner} ${type}`)
        if (known?.digest !== digest) this.published.set(`${owner} ${type}`, { at, digest })
      }
      return
    }
    const open = new Map(line.open.map((each) => [`${each.owner} ${each.type}`, each]))
    for (const key of this.running.keys()) {
      const owner = key.split(' ')[0]!
      const seen = line.about === null ? owner === line.zone || owner.endsWith(`.${line.zone}`) : owner === line.about
      if (seen && !open.has(key)) this.running.delete(key)
    }
    for (const [key, { verdicts }] of open) {
      const before = this.running.get(key)
      this.running.set(
        key,
        new Map(
          Object.entries(verdicts).map(([vantage, verdict]) => [
            `${vantage} ${verdict}`,
            before?.get(`${vantage} ${verdict}`) ?? at,
          ]),
        ),
      )
    }
  }
}

function isLine(line: unknown): line is LogLine {
  const { at, what, zone, sets, open } = (line ?? {}) as Record<string, unknown>
  if (typeof at !== 'string' || Number.isNaN(Date.parse(at)) || typeof zone !== 'string') return false
  if (what === 'published') return Array.isArray(sets) && sets.every((each) => Array.isArray(each) && each.length === 3)
  return (
    what === 'confirmation' &&
    Array.isArray(open) &&
    open.every((each) => typeof each?.owner === 'string' && typeof each.verdicts === 'object' && each.verdicts)
  )
}

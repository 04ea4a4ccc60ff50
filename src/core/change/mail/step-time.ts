/** When a set was last changed and published, by the log of the workspace: whether it is time for the next step of a policy. */
import { readDmarc } from '../../mail/dmarc/record.ts'
import { foldName, type Name } from '../../names/name.ts'
import { isDataEntry } from '../entry.ts'

/** Seconds since 1970; undefined where the log does not say. */
export interface StepTime {
  changed?: number
  /** When all authoritative servers were first seen to have it. */
  published?: number
}

/** Of a TXT set, by the lines of the log, oldest first; what is none of its lines is passed over. */
export function stepTime(lines: Iterable<unknown>, owner: Name, view?: string): StepTime {
  const key = foldName(owner)
  let time: StepTime = {}
  for (const line of lines as Iterable<LogLine>) {
    const at = Date.parse(line?.at ?? '') / 1000
    if (!Array.isArray(line?.sets) || Number.isNaN(at) || (view !== undefined && line.view !== view)) continue
    if (line.what === 'published') {
      const isOurs = line.sets.some((set) => Array.isArray(set) && set[0] === key && set[1] === 'TXT')
      if (isOurs && (time.published === undefined || time.changed === undefined)) time = { ...time, published: at }
    } else if (
      isDataEntry(line) &&
      line.what !== 'adopted' &&
      line.sets.some((set) => !Array.isArray(set) && set.owner === key && set.type === 'TXT' && isStep(set))
    )
      time = { changed: at }
  }
  return time
}

interface LogLine {
  at?: string
  what?: string
  view?: string
  sets?: ([string, string, string] | Changed)[]
}

interface Changed {
  owner: string
  type: string
  before?: { records: string[] } | null
  after?: { records: string[] } | null
}

/** Whether a change made the policy another one; other tags may change at any time. */
function isStep({ before, after }: Changed): boolean {
  const policyOf = (set: Changed['before']): string => {
    const record = set?.records
      .map((text) => readDmarc(text.replace(/^"|"$/g, '').replaceAll('" "', '')).record)
      .find(({ policy }) => policy)
    return record ? [record.policy, record.below, record.missing, record.percent, record.testing].join(' ') : ''
  }
  return policyOf(before) !== policyOf(after)
}

const DAY = 86_400

/** Why it is too early for the next step, where the log says so; `days` is how long a step must have been published. */
export function tooEarly({ changed, published }: StepTime, days: number, now: number): string | undefined {
  if (changed !== undefined && published === undefined)
    return 'no confirmation has seen the last step at all servers yet; see whether it is published with: bramblefront confirm'
  if (published === undefined || now - published >= days * DAY) return undefined
  const age = Math.floor((now - published) / DAY)
  const until = new Date((published + days * DAY) * 1000).toISOString().slice(0, 10)
  return `the last step has been published for ${age} of ${days} days (until ${until})`
}

/** Mail that was signed is still delivered so long after, in seconds: senders give up after four to five days (RFC 5321 §4.5.4.1), and some receivers verify later. */
const IN_TRANSIT = 7 * DAY

/** Why it is too early to revoke a domain’s key, by the lines of the log, oldest first: the one that came after it has not been published for long enough. */
export function tooEarlyToRevoke(
  lines: Iterable<unknown>,
  owner: Name,
  domain: Name,
  now: number,
  view?: string,
): string | undefined {
  const [own, suffix] = [foldName(owner), `._domainkey.${foldName(domain)}`]
  let next: { owner: Name; published?: number } | undefined
  for (const line of lines as Iterable<LogLine>) {
    const at = Date.parse(line?.at ?? '') / 1000
    if (!Array.isArray(line?.sets) || Number.isNaN(at) || (view !== undefined && line.view !== view)) continue
    if (line.what === 'published') {
      const isIts = line.sets.some((set) => Array.isArray(set) && set[0] === next?.owner)
      if (next && next.published === undefined && (isIts || line.sets.length === 0)) next = { ...next, published: at }
    } else if (isDataEntry(line) && line.what !== 'adopted')
      for (const set of line.sets)
        if (!Array.isArray(set) && !set.before && set.after && set.owner.endsWith(suffix) && set.owner !== own)
          next = { owner: set.owner }
  }
  if (!next) return undefined
  if (next.published === undefined)
    return `no confirmation has seen its successor ${next.owner} at all servers yet; see whether it is published with: bramblefront confirm`
  if (now - next.published >= IN_TRANSIT) return undefined
  const until = new Date((next.published + IN_TRANSIT) * 1000).toISOString().slice(0, 16)
  return `mail signed with it may be in transit until ${until.replace('T', ' ')} UTC, a week after its successor ${next.owner} was published`
}

/** Whether what was typed into a form is what the zone’s servers answer now. */
import { cameSet, isSilent } from '../confirm/came.ts'
import type { ConfirmedSet } from '../confirm/status.ts'
import type { Judged } from '../confirm/verdict.ts'
import type { Seconds } from '../model/zones.ts'
import { isSameData } from './changes.ts'
import { type Style, shownTtl } from './style.ts'

export type Tick =
  /** Every server that answered has it. */
  | 'ticked'
  /** It is there, with a TTL that neither the form nor anybody wanted. */
  | 'other-ttl'
  /** At least one has something else, or nothing. */
  | 'open'
  /** Nobody answered. */
  | 'unanswered'

/** The TTL that a set has at the servers, where it is none that was wanted. */
export const otherTtlOf = ({ question: { intended }, answers }: ConfirmedSet): Seconds | undefined =>
  answers.find(({ ttl }) => ttl !== null && ttl !== intended?.ttl)?.ttl ?? undefined

/** What the answers of the zone’s servers come to. `accepted` is a TTL that the person takes for this set. */
export function tickOf({ question, answers }: ConfirmedSet, style: Style, accepted?: Seconds): Tick {
  const told = answers.filter((each) => each.role === 'authoritative' && !isSilent(each))
  if (told.length === 0) return 'unanswered'
  const { intended } = question
  const hasTtl = ({ ttl }: Judged): boolean =>
    ttl === null || !intended || [intended.ttl, shownTtl(intended.ttl, style, ttl), accepted].includes(ttl)
  const hasData = (answer: Judged): boolean => {
    if (answer.verdict === 'as-intended') return true
    const came = cameSet(question, answer)
    return came !== undefined && intended !== undefined && isSameData(came, intended)
  }
  if (!told.every(hasData)) return 'open'
  return told.every(hasTtl) ? 'ticked' : 'other-ttl'
}

/** What the log remembers of a sheet that was left. */
export interface TickLine {
  what: 'tick'
  at: string
  zone: string
  view?: string
  style: string
  ticked: number
  of: number
  /** TTLs that were accepted: owner, type, TTL. */
  accepted: [string, string, Seconds][]
  /** Rows that are still to be typed. */
  open: [string, string][]
}

/** The newest such line of a zone in a style. */
export function lastTick(
  lines: Iterable<unknown>,
  zone: string,
  view: string | undefined,
  style: string,
): TickLine | undefined {
  let found: TickLine | undefined
  for (const line of lines as Iterable<Partial<TickLine> | null>)
    if (
      line?.what === 'tick' &&
      line.zone === zone &&
      line.view === view &&
      line.style === style &&
      typeof line.at === 'string' &&
      Array.isArray(line.accepted) &&
      Array.isArray(line.open)
    )
      found = line as TickLine
  return found
}

/** When an answer can have changed. Times are seconds since 1970. */

import { letGo } from './history.ts'
import type { Confirmation } from './plan.ts'
import type { ConfirmedSet } from './status.ts'
import type { Judged } from './verdict.ts'

/** Never more often than every few seconds; authoritative servers can change at any time; failures are kept for a while (RFC 8767 §5, RFC 9520 §3.2). */
export const LEAST = 5
const POLL = 15
const RETRY = 30

/** When a resolver's answer that is not the intended one can have changed, in seconds since 1970; Infinity for one that is intended. */
export function dueAt({ verdict, ttl, at }: Pick<Judged, 'verdict' | 'ttl' | 'at'>): number {
  if (verdict === 'as-intended' || verdict === 'not-tried') return Number.POSITIVE_INFINITY
  if (verdict === 'earlier-answer' || verdict === 'different' || verdict === 'aliased' || verdict === 'absent')
    return Math.max(at + LEAST, letGo(at, ttl ?? 0))
  return at + RETRY
}

/** When the servers of a zone are asked again, all of them for all that is open; Infinity where all of them have all of it. */
export function serversDueAt({ own, sets, lookedAt }: Pick<Confirmation, 'own' | 'sets' | 'lookedAt'>): number {
  const isOpen = [...own, ...sets].some(({ answers }) => answers.some(isOtherAtServer))
  return isOpen ? lookedAt + POLL : Number.POSITIVE_INFINITY
}

const isOtherAtServer = ({ role, verdict }: Judged): boolean =>
  role === 'authoritative' && verdict !== 'as-intended' && verdict !== 'not-tried'

export const openIn = ({ own, sets }: Confirmation): ConfirmedSet[] =>
  [...own, ...sets].filter(({ status }) => status.word !== 'confirmed')

/** Vantages as a source of knowledge. */

import type { Clock } from '../core/clock.ts'
import type { Observation, Vantage } from '../core/confirm/observation.ts'
import { type Asked, type Find, findAsked, type Knowledge } from '../core/knowledge/find.ts'
import { foldName, type Name } from '../core/names/name.ts'
import { Asker } from './ask.ts'

export interface AskedSource {
  find: Find
  /** What each vantage says by itself. */
  findAtEach(name: Name, type: number): Promise<Knowledge[]>
  /** Whether anything was asked, and nobody replied to any of it. */
  isSilent(): boolean
  /** What was asked for, and nobody could say: of that nothing is known. */
  unanswered(): Unanswered[]
  close(): void
}

/** A name and type that nobody of those who were asked could say anything of, and why. */
export interface Unanswered {
  name: Name
  type: number
  why: 'time-out' | 'server-failure'
}

/** What the vantages say, in turn; answers are remembered for as long as this is open. `limitMs` is for one question. */
export function findAt(vantages: readonly Vantage[], clock: Clock, limitMs: number): AskedSource {
  const askers = vantages.map((vantage) => new Asker(vantage, clock, { limitMs }))
  let replies = 0
  let questions = 0
  const heard = (observation: Observation): Observation => {
    questions++
    if (observation.message) replies++
    return observation
  }
  const asks = askers.map(
    (asker): Asked =>
      async (name, type) =>
        heard(await asker.ask(name, type)),
  )
  const each = asks.map((ask) => findAsked([ask]))
  const inTurn = findAsked(asks)
  const failed = new Map<string, Unanswered>()
  const noted = (name: Name, type: number, found: readonly Knowledge[]): void => {
    if (!found.every(({ outcome, why }) => outcome === 'unknown' && (why === 'time-out' || why === 'server-failure')))
      return
    const why = found.some((one) => one.why === 'server-failure') ? 'server-failure' : 'time-out'
    failed.set(`${foldName(name)} ${type}`, { name: foldName(name), type, why })
  }
  return {
    async find(name, type) {
      const found = await inTurn(name, type)
      noted(name, type, [found])
      return found
    },
    async findAtEach(name, type) {
      const found = await Promise.all(each.map((find) => find(name, type)))
      noted(name, type, found)
      return found
    },
    unanswered: () => [...failed.values()],
    isSilent: () => questions > 0 && replies === 0,
    close() {
      for (const asker of askers) asker.close()
    },
  }
}

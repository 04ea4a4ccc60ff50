/** Vantages as a source of knowledge. */

import type { Clock } from '../core/clock.ts'
import type { Observation, Vantage } from '../core/confirm/observation.ts'
import { type Asked, type Find, findAsked, type Knowledge } from '../core/knowledge/find.ts'
import type { Name } from '../core/names/name.ts'
import { Asker } from './ask.ts'

export interface AskedSource {
  find: Find
  /** What each vantage says by itself. */
  findAtEach(name: Name, type: number): Promise<Knowledge[]>
  /** Whether anything was asked, and nobody replied to any of it. */
  isSilent(): boolean
  close(): void
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
  return {
    find: findAsked(asks),
    findAtEach: (name, type) => Promise.all(each.map((find) => find(name, type))),
    isSilent: () => questions > 0 && replies === 0,
    close() {
      for (const asker of askers) asker.close()
    },
  }
}

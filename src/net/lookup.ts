/** Vantages as a source of knowledge. */

import type { Clock } from '../core/clock.ts'
import type { Vantage } from '../core/confirm/observation.ts'
import { type Find, findAsked } from '../core/knowledge/find.ts'
import { Asker } from './ask.ts'

export interface AskedSource {
  find: Find
  close(): void
}

/** What the vantages say, in turn; answers are remembered for as long as this is open. `limitMs` is for one question. */
export function findAt(vantages: readonly Vantage[], clock: Clock, limitMs: number): AskedSource {
  const askers = vantages.map((vantage) => new Asker(vantage, clock, { limitMs }))
  return {
    find: findAsked(askers.map((asker) => (name, type) => asker.ask(name, type))),
    close() {
      for (const asker of askers) asker.close()
    },
  }
}

import type { Vantage } from '../../../core/confirm/observation.ts'
import type { Asking } from '../../../core/confirm/plan.ts'
import { Asker, type AskOptions } from '../../../net/ask.ts'
import { CLOCK } from '../../clock.ts'

/** Whom a confirmation asks: one asker for each vantage, made when it is first named. */
export class Askers {
  readonly vantages = new Map<string, Vantage>()
  private readonly made = new Map<string, Asker>()
  private readonly options: AskOptions

  constructor(options: AskOptions) {
    this.options = options
  }

  of(vantage: Vantage): Asker {
    let made = this.made.get(vantage.label)
    if (!made) {
      this.made.set(vantage.label, (made = new Asker(vantage, CLOCK, this.options)))
      this.vantages.set(vantage.label, vantage)
    }
    return made
  }

  /** Asks them by their labels; waits no longer once `stopped`. */
  asking(stopped: AbortSignal): Asking {
    return {
      // A server without an address is one that does not answer: resolvers cannot ask it either.
      ask: (party, name, type, how) =>
        this.made.get(party)?.ask(name, type, how) ?? Promise.resolve({ ...UNFOUND, vantage: party, at: CLOCK.now() }),
      now: CLOCK.now,
      sleep: (seconds) => sleep(seconds, stopped),
    }
  }

  close(): void {
    for (const each of this.made.values()) each.close()
  }
}

const UNFOUND = {
  transport: 'udp',
  tookMs: 0,
  trouble: { kind: 'no-reply', detail: 'no address is known for it' },
} as const

/** Waits, or less long where everything shall stop. */
function sleep(seconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const stopWaiting = CLOCK.after(Math.max(0, seconds * 1000), done)
    function done(): void {
      stopWaiting()
      signal.removeEventListener('abort', done)
      resolve()
    }
    signal.addEventListener('abort', done)
    if (signal.aborted) done()
  })
}

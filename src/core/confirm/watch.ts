/** Asking again, whenever something can have changed, until all is confirmed. */
import { dueAt, LEAST, openIn, serversDueAt } from './due.ts'
import type { Asking, Confirmation, Plan } from './plan.ts'
import { confirmAll } from './round.ts'

/** When a round can bring something new: what becomes due within a few seconds is asked for together. Infinity where nothing is. */
function nextDue(confirmations: readonly Confirmation[]): number {
  const dues = confirmations.flatMap((each) => [
    serversDueAt(each),
    ...openIn(each).flatMap(({ answers, status }) => [
      ...answers.filter(({ role }) => role === 'resolver').map(dueAt),
      // Of what no answer shows, the end alone is known.
      status.word === 'settling' && answers.every(({ verdict }) => verdict === 'as-intended')
        ? status.until!
        : Number.POSITIVE_INFINITY,
    ]),
  ])
  const first = dues.reduce((least, at) => Math.min(least, at), Number.POSITIVE_INFINITY)
  return dues.reduce((last, at) => (at <= first + LEAST ? Math.max(last, at) : last), first)
}

/** Why a watch ended: its deadline comes before anything can change, it was stopped, or nothing changes by waiting. All is confirmed otherwise. */
export type Ended = { why: 'deadline' | 'stopped' | 'nothing-due'; next?: number }

export interface Watching {
  /** Stop at this time, whatever stands then: seconds since 1970. */
  deadline?: number
  /** Whether everything shall stop now. */
  stopped(): boolean
  /** After each round; `next` is when the next one is due. */
  round(confirmations: readonly Confirmation[], next: number | undefined): void | Promise<void>
  /** Where it ends before all is confirmed. */
  ended?(how: Ended): void
}

/** Asks again whenever something can have changed, until all of all plans is confirmed, or it shall stop. */
export async function watch(plans: readonly Plan[], asking: Asking, watching: Watching): Promise<Confirmation[]> {
  let confirmations = await confirmAll(plans, asking)
  let whole = true
  for (;;) {
    const isOpen = confirmations.some((each) => openIn(each).length > 0)
    // What was right an hour ago may not be so now: the last round asks for everything.
    if (!isOpen && !whole) {
      confirmations = await confirmAll(plans, asking)
      whole = true
      continue
    }
    const due = isOpen ? nextDue(confirmations) : Number.POSITIVE_INFINITY
    const next = Math.max(due, asking.now() + LEAST)
    const over = !Number.isFinite(due) || (watching.deadline !== undefined && next > watching.deadline)
    await watching.round(confirmations, over ? undefined : next)
    if (!over && !watching.stopped()) await asking.sleep(next - asking.now())
    if (over || watching.stopped()) {
      if (isOpen) watching.ended?.(howEnded(watching.stopped(), due, next))
      return confirmations
    }
    confirmations = await confirmAll(plans, asking, confirmations)
    whole = false
  }
}

function howEnded(stopped: boolean, due: number, next: number): Ended {
  if (stopped) return { why: 'stopped' }
  return Number.isFinite(due) ? { why: 'deadline', next } : { why: 'nothing-due' }
}

/** A bar on standard error while something long is done, where that is a terminal. */
import { printable } from '../../core/printable.ts'

export interface Progress {
  /** So many steps more are to be done. */
  expect(steps: number): void
  increment(): void
  stop(): void
}

/** A bar for the steps of `what` that are expected; none where standard error is no terminal, and none while there are fewer than `least`. It is gone again when it is stopped. */
export async function progressBar(what: string, least: number): Promise<Progress | undefined> {
  const bar = await barOf(`${what}  {bar}  {value} of {total}`)
  if (!bar) return undefined
  let [total, done] = [0, 0]
  return {
    expect: (steps) => {
      const isShown = total >= least
      total += steps
      if (isShown) bar.setTotal(total)
      else if (total >= least) bar.start(total, done)
    },
    // Reading is one long step for the event loop: the bar is drawn as it counts, and no timer is waited for.
    increment: () => {
      done++
      if (total >= least) bar.increment()
    },
    stop: () => bar.stop(),
  }
}

/** A line that counts, where nobody knows how many there will be. */
export async function counter(what: string): Promise<{ increment(by: number): void; stop(): void } | undefined> {
  const bar = await barOf(`{value} ${what}`)
  bar?.start(1, 0)
  return bar && { increment: (by) => bar.increment(by), stop: () => bar.stop() }
}

async function barOf(format: string) {
  if (!process.stderr.isTTY) return undefined
  const { default: cliProgress } = await import('cli-progress')
  return new cliProgress.SingleBar({
    format: printable(format),
    stream: process.stderr,
    clearOnComplete: true,
    hideCursor: true,
    fps: 8,
  })
}

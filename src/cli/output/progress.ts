/** A bar on standard error while something long is done, where that is a terminal. */

export interface Progress {
  increment(): void
  stop(): void
}

/** A bar for `total` steps of `what`; none where standard error is no terminal or there are fewer than `least`. It is gone again when it is stopped. */
export async function progressBar(what: string, total: number, least: number): Promise<Progress | undefined> {
  if (!process.stderr.isTTY || total < least) return undefined
  const { default: cliProgress } = await import('cli-progress')
  const bar = new cliProgress.SingleBar({
    format: `${what}  {bar}  {value} of {total}`,
    stream: process.stderr,
    clearOnComplete: true,
    hideCursor: true,
    fps: 8,
  })
  bar.start(total, 0)
  return {
    // Reading is one long step for the event loop: the bar is drawn as it counts, and no timer is waited for.
    increment: () => bar.increment(),
    stop: () => bar.stop(),
  }
}

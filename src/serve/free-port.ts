/** Ports for servers that are told theirs before they start. */
import { randomInt } from 'node:crypto'
import { createServer } from 'node:net'

/** A port that nobody has, below those that the system takes for connections that go out: nobody gets it until it is used. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = randomInt(10_000, 32_000)
    const isFree = await new Promise<boolean>((resolve) => {
      const server = createServer().once('error', () => resolve(false))
      server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)))
    })
    if (isFree) return port
  }
}

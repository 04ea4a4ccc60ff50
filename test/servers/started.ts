/** What a test began, and what ends with it. */
import { afterEach } from 'vitest'
import type { RealServer } from './servers.ts'

export const running: { stop(): unknown }[] = []
afterEach(async () => {
  for (const each of running.splice(0)) await each.stop()
})
export async function started(server: Promise<RealServer>): Promise<RealServer> {
  const ready = await server
  running.push(ready)
  return ready
}

/** `rehearse` while it serves. */
import { type ChildProcess, spawn } from 'node:child_process'
import { Resolver } from 'node:dns/promises'
import { resolve } from 'node:path'
import { afterEach } from 'vitest'
import { freePort } from '../../src/serve/free-port.ts'

const running: ChildProcess[] = []
afterEach(() => {
  for (const each of running.splice(0)) each.kill('SIGKILL')
})

export interface Rehearsal {
  port: number
  /** Ends it; what it printed. */
  ended(): Promise<any>
}

/** The program while it serves. */
export async function rehearsal(folder: string, zone: string, ...args: string[]): Promise<Rehearsal> {
  const port = await freePort()
  const child: ChildProcess = spawn(
    process.execPath,
    [resolve('dist/bramblefront.js'), 'rehearse', '--port', String(port), '--json', ...args],
    { cwd: folder, stdio: ['ignore', 'pipe', 'inherit'] },
  )
  let printed = ''
  child.stdout!.setEncoding('utf8').on('data', (text) => (printed += text))
  const closed = new Promise<void>((done) => child.on('close', () => done()))
  running.push(child)
  const asker = resolverAt(port)
  for (let tries = 0; ; tries++) {
    try {
      await asker.resolveSoa(zone)
      break
    } catch (error) {
      if (tries === 50) throw error
      await new Promise((done) => setTimeout(done, 100))
    }
  }
  return {
    port,
    async ended() {
      child.kill('SIGINT')
      await closed
      return JSON.parse(printed)
    },
  }
}

export function resolverAt(port: number): Resolver {
  const made = new Resolver({ timeout: 1000, tries: 2 })
  made.setServers([`127.0.0.1:${port}`])
  return made
}

/** The primary server that the demo publishes to: named, where it is installed, else one that is simulated. */
import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'
import { delimiter, join } from 'node:path'
import type { Vantage } from '../../../core/confirm/observation.ts'
import type { Name } from '../../../core/names/name.ts'
import { freePort } from '../../../serve/free-port.ts'
import { Primary } from '../../../serve/primary.ts'
import { serve } from '../../../serve/sockets.ts'
import type { Scratch } from '../../../workspace/scratch.ts'
import { bareFiles, loadZones } from '../../../workspace/workspace.ts'
import { transferOf } from '../servers.ts'

export interface Running {
  vantage: Vantage
  isReal: boolean
  close(): Promise<void>
}

/** Starts it on loopback with this zone; whoever is on this machine may change it. */
export async function startPrimary(scratch: Scratch, zone: Name, file: string): Promise<Running> {
  const real = await startNamed(scratch, zone, file)
  if (real) return real
  const served = await serve(new Primary(loadZones(bareFiles([file]))).respond)
  return { vantage: at(served.port), isReal: false, close: () => served.close() }
}

const at = (port: number): Vantage => ({ label: 'primary', address: '127.0.0.1', port, transport: 'tcp' })

async function startNamed(scratch: Scratch, zone: Name, file: string): Promise<Running | undefined> {
  const folders = [...(process.env.PATH ?? '').split(delimiter), '/usr/sbin', '/usr/local/sbin']
  const program = folders.map((folder) => join(folder, 'named')).find((path) => existsSync(path))
  if (program === undefined) return undefined
  const port = await freePort()
  scratch.copy(file, 'primary/zone')
  const folder = scratch.path('primary')
  scratch.put(
    'primary/named.conf',
    `options {
  directory "${folder}"; pid-file "${folder}/pid"; session-keyfile "${folder}/session.key"; lock-file none;
  listen-on port ${port} { 127.0.0.1; }; listen-on-v6 { none; };
  recursion no; dnssec-validation no; allow-query { 127.0.0.1; }; allow-transfer { 127.0.0.1; }; notify no;
};
controls { };
zone "${zone}" { type primary; file "${folder}/zone"; allow-update { 127.0.0.1; }; };
`,
  )
  const child = spawn(program, ['-f', '-c', join(folder, 'named.conf')], { stdio: 'ignore' })
  const ended = new Promise<void>((resolve) => child.on('exit', () => resolve()).on('error', () => resolve()))
  const kill = (): void => void child.kill()
  process.once('exit', kill)
  const close = (): Promise<void> => {
    kill()
    process.removeListener('exit', kill)
    return ended
  }
  for (let tries = 0; tries < 50 && child.exitCode === null; tries++) {
    if (!('failed' in (await transferOf(at(port), zone, 1000)))) return { vantage: at(port), isReal: true, close }
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  await close()
  return undefined
}

/** Files of zones in a folder that a name server reads: written whole or not at all. */
import { existsSync, mkdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, join, relative, resolve } from 'node:path'
import type { Zone, Zones } from '../core/model/zones.ts'
import { leftOvers } from './journal.ts'
import { lock } from './lock.ts'
import { systemText, Trouble } from './trouble.ts'
import type { ZoneFile } from './workspace.ts'
import { moveIntoPlace, type Staged, stage } from './write.ts'

export interface DeliveredFile {
  path: string
  octets: Uint8Array
}

/** Where the files of a zone go: those that it includes, then its own. Trouble where the folder is missing, or an included file lies outside that of the zone’s. */
export function deliveryFiles(folder: string, { file, octets }: ZoneFile, zones: Zones, zone: Zone): DeliveredFile[] {
  if (!existsSync(folder) || !statSync(folder).isDirectory())
    throw new Trouble(`the folder ${folder} does not exist: create it, or correct folder: in bramblefront.yaml`)
  const home = dirname(resolve(file))
  const included = zones.sources.filter((source) => source.zone === zone.index).slice(1)
  return [
    ...included.map((source) => {
      const below = relative(home, resolve(source.file))
      if (below.startsWith('..') || resolve(home, below) !== join(home, below))
        throw new Trouble(`${source.file} is outside the folder of ${file}: it cannot be delivered with it`)
      return { path: join(folder, below), octets: source.octets }
    }),
    { path: join(folder, basename(file)), octets },
  ]
}

/** Puts the files into their places, under the lock of the folder: all are written and synced beside first, so that a full disk changes nothing. */
export async function deliver(folder: string, files: readonly DeliveredFile[]): Promise<void> {
  const staged: Staged[] = []
  let here = folder
  const held = await lock([folder])
  try {
    // What a call that was killed left beside them.
    for (const { path } of files)
      for (const each of leftOvers(dirname(path), `${basename(path)}.`)) rmSync(each, { force: true })
    for (const { path, octets } of files) {
      here = path
      mkdirSync(dirname(path), { recursive: true })
      staged.push(stage(path, octets))
    }
    for (const { from, to } of staged) {
      held.check()
      moveIntoPlace(from, (here = to))
    }
  } catch (error) {
    for (const { from } of staged) rmSync(from, { force: true })
    if (error instanceof Trouble) throw error
    throw new Trouble(`cannot write ${here}: ${systemText(error)}`)
  } finally {
    await held.release()
  }
}

/** Whether a file holds just that by now. */
export const isDelivered = ({ path, octets }: DeliveredFile): boolean =>
  existsSync(path) && Buffer.compare(readFileSync(path), octets) === 0

/** Locks: one for a workspace, and one for a file outside of any. They are held for as long as it takes to write, never while a person or the network is waited for. */
import { statSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import { systemText, Trouble } from './trouble.ts'

/** A holder that has not been heard of for so long is taken to be gone, in milliseconds. */
const STALE = 10_000

/** So long others are waited for: a few hundred milliseconds at a time. */
const WAITING = { retries: 60, factor: 1.3, minTimeout: 20, maxTimeout: 400, randomize: true }

export interface Held {
  /** Trouble where somebody else has taken the lock over, because this process was stopped for longer than a lock lasts. */
  check(): void
  release(): Promise<void>
}

/** Takes the locks of these folders and files, in one order for all, so that nobody waits for who waits for them. */
export async function lock(paths: readonly string[]): Promise<Held> {
  const held: Held[] = []
  const release = async (): Promise<void> => {
    for (const each of held.reverse()) await each.release()
  }
  try {
    for (const path of [...new Set(paths)].sort()) held.push(await lockOne(path))
  } catch (error) {
    await release()
    throw error
  }
  const check = (): void => {
    for (const each of held) each.check()
  }
  return { check, release }
}

/** Where the lock of a folder or file is: a name that no pattern of zones matches. */
const lockPath = (path: string): string =>
  statSync(path).isDirectory() ? join(path, '.bramblefront.lock') : join(dirname(path), `.${basename(path)}.lock`)

async function lockOne(path: string): Promise<Held> {
  const { default: lockfile } = await import('proper-lockfile')
  let taken = false
  let place: string
  let release: () => Promise<void>
  try {
    place = lockPath(path)
    release = await lockfile.lock(path, {
      realpath: false,
      lockfilePath: place,
      retries: WAITING,
      stale: STALE,
      onCompromised: () => (taken = true),
    })
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    throw new Trouble(
      code === 'ELOCKED'
        ? `${path} is being written by another call; try again when that has finished`
        : `cannot write ${path}: ${systemText(error)}`,
    )
  }
  const identity = identityOf(place)
  return {
    check() {
      if (taken || identityOf(place) !== identity)
        throw new Trouble(
          `${path} was locked by another call in the meantime, because this one was suspended too long; nothing was written: try again`,
        )
    },
    release: () => (identityOf(place) === identity ? release().catch(() => {}) : Promise.resolve()),
  }
}

/** Which lock it is: another holder makes a new one. */
function identityOf(place: string): string {
  try {
    const { ino, birthtimeMs } = statSync(place)
    return `${ino} ${birthtimeMs}`
  } catch {
    return 'gone'
  }
}

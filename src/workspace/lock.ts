/** Locks: one for a workspace, and one for a file outside of any. They are held for as long as it takes to write, never while a person or the network is waited for. */
import {
  closeSync,
  fstatSync,
  futimesSync,
  linkSync,
  lstatSync,
  openSync,
  readFileSync,
  readlinkSync,
  renameSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs'
import { hostname } from 'node:os'
import { basename, dirname, join } from 'node:path'
import { setTimeout as delay } from 'node:timers/promises'
import { systemText, Trouble } from './trouble.ts'

/** A holder that has not been heard of for so long is taken to be gone, and is heard of so often, in milliseconds. */
const STALE = 10_000
const HEARTBEAT = 2000

/** So often others are waited for, a few hundred milliseconds at a time. */
const TRIES = 60
const LONGEST_WAIT = 400

/**
 * A lock that is held. Whoever was suspended for longer than a lock lasts may have lost it to another call, which has finished or undone what was begun:
 * so `check` stands before every step that others can see, and each such step takes from its place what the other call would have taken away.
 */
export interface Held {
  isOurs(): boolean
  /** Trouble where somebody else has taken the lock over. */
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
  return {
    isOurs: () => held.every((each) => each.isOurs()),
    check() {
      for (const each of held) each.check()
    },
    release,
  }
}

/** Where the lock of a folder or file is: a name that no pattern of zones matches. */
const lockPath = (path: string): string =>
  statSync(path).isDirectory() ? join(path, '.bramblefront.lock') : join(dirname(path), `.${basename(path)}.lock`)

async function lockOne(path: string): Promise<Held> {
  try {
    const place = lockPath(path)
    for (let tries = 1; ; tries++) {
      const descriptor = made(place)
      if (descriptor !== undefined) return holding(path, place, descriptor)
      const there = lstatSync(place, { throwIfNoEntry: false })
      if (!there) continue
      if (there.mtimeMs < Date.now() - STALE || isHolderGone(place)) takeAway(place, there.ino)
      else if (tries < TRIES) await delay(Math.min(LONGEST_WAIT, 10 * tries) * (0.5 + Math.random()))
      else throw new Trouble(`${path} is being written by another call; try again when that has finished`)
    }
  } catch (error) {
    throw error instanceof Trouble ? error : new Trouble(`cannot write ${path}: ${systemText(error)}`)
  }
}

/** The file that is the lock, open for as long as it is held, so that no other file gets its number; undefined where there is one already. */
function made(place: string): number | undefined {
  try {
    return openSync(place, 'wx', 0o644)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return undefined
    throw error
  }
}

function holding(path: string, place: string, descriptor: number): Held {
  const { ino } = fstatSync(descriptor)
  try {
    writeSync(descriptor, JSON.stringify(thisProcess()))
  } catch {
    // On a full disk it is an empty file: others wait until it is old.
  }
  const isOurs = (): boolean => lstatSync(place, { throwIfNoEntry: false })?.ino === ino
  const beat = (): void => futimesSync(descriptor, new Date(), new Date())
  const timer = setInterval(beat, HEARTBEAT).unref()
  return {
    isOurs,
    check() {
      if (!isOurs())
        throw new Trouble(
          `${path} was locked by another call in the meantime, because this one was suspended too long; nothing was written: try again`,
        )
      beat()
    },
    async release() {
      clearInterval(timer)
      if (isOurs()) rmSync(place, { force: true })
      closeSync(descriptor)
    },
  }
}

/** Takes an old lock away, if it is still the one with that number: one that somebody made in between is put back. */
function takeAway(place: string, ino: number): void {
  const aside = join(
    dirname(place),
    `.${basename(place)}.${process.pid}-${Math.random().toString(36).slice(2, 10)}.new`,
  )
  try {
    renameSync(place, aside)
    if (lstatSync(aside).ino !== ino) linkSync(aside, place)
  } catch {
    // It is gone, or a third one has it.
  }
  rmSync(aside, { recursive: true, force: true })
}

/** A process as others on its machine can find it: its number, when it was started, and where these numbers mean something. */
interface Holder {
  pid: number
  started: string | null
  where: string
}

const thisProcess = (): Holder => ({ pid: process.pid, started: startOf(process.pid) ?? null, where: whereWeAre() })

/** The machine since it was started, and the processes that can be seen from here: several containers may share a folder. */
function whereWeAre(): string {
  try {
    return [
      hostname(),
      readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim(),
      readlinkSync('/proc/self/ns/pid'),
    ].join(' ')
  } catch {
    return hostname()
  }
}

/** When a process was started, in the system's ticks; undefined where there is none, or that is not told. */
function startOf(pid: number): string | undefined {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19]
  } catch {
    return undefined
  }
}

/** Whether the holder of a lock is known to have ended. */
function isHolderGone(place: string): boolean {
  try {
    const { pid, started, where } = JSON.parse(readFileSync(place, 'utf8')) as Holder
    return started !== null && where === whereWeAre() && startOf(pid) !== started
  } catch {
    return false
  }
}

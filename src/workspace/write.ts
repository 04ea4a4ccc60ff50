/**
 * Files on disk, whole or not at all: what is new is written beside, as often as it takes, synced and compared, and only then takes its place.
 * Everything that the program writes into a workspace goes through here.
 */
import {
  closeSync,
  existsSync,
  fchmodSync,
  fchownSync,
  fstatSync,
  fsyncSync,
  ftruncateSync,
  linkSync,
  openSync,
  readSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs'
import { basename, dirname, join } from 'node:path'

/** What is written and synced beside its place, and not there yet. */
export interface Staged {
  /** Puts it into its place. */
  commit(): void
  /** Takes it away; does nothing once it is in its place. */
  discard(): void
}

export interface StageOptions {
  /** Permissions; those of the file that is there, where there is one. */
  mode?: number
  /** There must be no such file yet. */
  fresh?: boolean
}

let staged = 0

/** Writes `content` beside `file`. A symbolic link is followed; mode and owner of what is there are kept. Throws the system's error, with nothing left behind. */
export function stage(file: string, content: Uint8Array | string, { mode, fresh = false }: StageOptions = {}): Staged {
  const octets = typeof content === 'string' ? Buffer.from(content) : content
  const place = !fresh && existsSync(file) ? realpathSync(file) : file
  const before = !fresh && existsSync(place) ? statSync(place) : undefined
  // No pattern of zones matches a name that begins with a dot.
  const beside = join(dirname(place), `.${basename(place)}.${process.pid}-${staged++}.new`)
  const discard = (): void => rmSync(beside, { force: true })
  const descriptor = openSync(beside, 'wx', mode ?? 0o666)
  try {
    try {
      if (before) keepOwner(descriptor, before)
      writeAll(descriptor, octets)
      fsyncSync(descriptor)
      if (fstatSync(descriptor).size !== octets.length) throw damaged()
    } finally {
      closeSync(descriptor)
    }
    if (!isStill(beside, octets)) throw damaged()
  } catch (error) {
    discard()
    throw error
  }
  return {
    commit() {
      if (fresh) linkFresh(beside, place)
      else renameSync(beside, place)
      syncFolder(dirname(place))
    },
    discard,
  }
}

/** Puts `content` in the place of a file, or of none. */
export function replaceFile(file: string, content: Uint8Array | string): void {
  commitOf(stage(file, content))
}

/** Makes a file that must not be there yet (EEXIST). */
export function createFile(file: string, content: Uint8Array | string, mode?: number): void {
  commitOf(stage(file, content, { mode, fresh: true }))
}

function commitOf(ready: Staged): void {
  try {
    ready.commit()
  } finally {
    ready.discard()
  }
}

/** Adds to the end of a file, all of it or nothing. */
export function appendToFile(file: string, text: string): void {
  const descriptor = openSync(file, 'a')
  try {
    const { size } = fstatSync(descriptor)
    try {
      writeAll(descriptor, Buffer.from(text))
      fsyncSync(descriptor)
    } catch (error) {
      ftruncateSync(descriptor, size)
      throw error
    }
  } finally {
    closeSync(descriptor)
  }
}

/** A write may take less than it was given. */
function writeAll(descriptor: number, octets: Uint8Array): void {
  for (let at = 0; at < octets.length; ) {
    const written = writeSync(descriptor, octets, at, octets.length - at)
    if (written <= 0) throw damaged()
    at += written
  }
}

const damaged = (): Error => Object.assign(new Error('what is on the disk is not what was written'), { code: 'EIO' })

function keepOwner(descriptor: number, { mode, uid, gid }: { mode: number; uid: number; gid: number }): void {
  const now = fstatSync(descriptor)
  if (now.uid !== uid || now.gid !== gid) {
    try {
      fchownSync(descriptor, uid, gid)
    } catch {
      // Not everybody may give files away: then it is the writer's.
    }
  }
  fchmodSync(descriptor, mode & 0o7777)
}

/** A link fails where there is a file already; not every file system has links. */
function linkFresh(beside: string, place: string): void {
  try {
    linkSync(beside, place)
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    if ((code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'EMLINK') || existsSync(place)) throw error
    renameSync(beside, place)
  }
}

/** So that the name, too, is there after the power fails. Some file systems do not let folders be synced. */
function syncFolder(folder: string): void {
  try {
    const descriptor = openSync(folder, 'r')
    try {
      fsyncSync(descriptor)
    } finally {
      closeSync(descriptor)
    }
  } catch {
    // It is in its place all the same.
  }
}

/** So many octets of a file are compared at a time, so that a large one need not be held twice. */
const PIECE = 1 << 20

/** Whether a file holds just these octets. */
export function isStill(file: string, known: Uint8Array): boolean {
  let descriptor: number | undefined
  try {
    descriptor = openSync(file, 'r')
    const piece = Buffer.allocUnsafe(Math.min(PIECE, known.length + 1))
    let at = 0
    for (let read = 1; read > 0; at += read) {
      read = readSync(descriptor, piece, 0, piece.length, null)
      if (Buffer.compare(piece.subarray(0, read), known.subarray(at, at + read)) !== 0) return false
    }
    return at === known.length
  } catch {
    return false
  } finally {
    if (descriptor !== undefined) closeSync(descriptor)
  }
}

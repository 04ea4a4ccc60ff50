/**
 * Files on disk, whole or not at all: what is new is written beside, as often as it takes, synced and compared, and only then takes its place.
 * Everything that the program writes into a workspace goes through here.
 */
import {
  closeSync,
  constants,
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
  truncateSync,
  writeSync,
} from 'node:fs'
import { basename, dirname, join } from 'node:path'

/** A file that was written and synced beside its place. */
export interface Staged {
  /** What it is called until it takes its place. */
  from: string
  /** Its place: where a link leads, if `file` is one. */
  to: string
}

export interface StageOptions {
  /** Permissions of a new file. */
  mode?: number
  /** The file whose mode and owner it takes; default: the one that it replaces. */
  like?: string
  /** Takes the place of a link, instead of the file that it leads to. */
  itself?: boolean
}

/** Names of files that are staged: no pattern of zones matches what begins with a dot. */
export const STAGED = /^\..+\.\d+-[0-9a-z]+\.new$/

/** Writes `content` beside `file`. A symbolic link is followed, unless `itself`. Throws the system's error, with nothing left behind. */
export function stage(file: string, content: Uint8Array | string, { mode, like, itself }: StageOptions = {}): Staged {
  const octets = typeof content === 'string' ? Buffer.from(content) : content
  const to = itself ? file : placeOf(file)
  const model = like ?? to
  const before = !itself && existsSync(model) ? statSync(model) : undefined
  const { from, descriptor } = opened(to, before ? 0o600 : (mode ?? 0o666))
  try {
    try {
      if (before) keepOwner(descriptor, before)
      writeAll(descriptor, octets)
      fsyncSync(descriptor)
      if (fstatSync(descriptor).size !== octets.length) throw damaged()
    } finally {
      closeSync(descriptor)
    }
    if (!isStill(from, octets)) throw damaged()
  } catch (error) {
    rmSync(from, { force: true })
    throw error
  }
  return { from, to }
}

/** Another name, beside `file`, for the very file that `same` is: no copy of it need be written. Undefined where that cannot be. */
export function stageLink(file: string, same: string): Staged | undefined {
  const from = freshName(file)
  try {
    linkSync(realpathSync(same), from)
    return { from, to: file }
  } catch {
    return undefined
  }
}

/** Where a link leads; the file itself where it is none. A link that leads to nothing is one. */
function placeOf(file: string): string {
  return existsSync(file) ? realpathSync(file) : file
}

/** So that nobody knows beforehand what it will be called. */
const freshName = (file: string): string =>
  join(dirname(file), `.${basename(file)}.${process.pid}-${Math.random().toString(36).slice(2, 10)}.new`)

function opened(file: string, mode: number): { from: string; descriptor: number } {
  for (let tries = 0; ; tries++) {
    const from = freshName(file)
    try {
      return { from, descriptor: openSync(from, 'wx', mode) }
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST' || tries === 20) throw error
    }
  }
}

export function moveIntoPlace(from: string, to: string): void {
  renameSync(from, to)
  syncFolder(dirname(to))
}

/** The same where there must be no file yet (EEXIST). */
export function linkIntoPlace(from: string, to: string): void {
  linkFresh(from, to)
  rmSync(from, { force: true })
  syncFolder(dirname(to))
}

/** Writes a file that is not there yet and whose loss would be noticed: not synced. */
export function writeFresh(file: string, octets: Uint8Array): void {
  const descriptor = openSync(file, 'wx')
  try {
    writeAll(descriptor, octets)
  } finally {
    closeSync(descriptor)
  }
}

/** Puts `content` in the place of a file (of a link itself), or of none. `check` is called just before it takes that place. */
export function replaceFile(file: string, content: Uint8Array | string, check = () => {}): void {
  const { from, to } = stage(file, content, { itself: true })
  try {
    check()
    moveIntoPlace(from, to)
  } catch (error) {
    rmSync(from, { force: true })
    throw error
  }
}

/** Puts `text` behind what a file holds, or nothing where that fails. */
export function append(file: string, text: string): void {
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

/** Puts `text` behind the first `size` octets of a file. Done again, by whomever, it changes nothing: neither itself nor what others have put behind it. */
export function appendAt(file: string, size: number, text: string): void {
  const descriptor = openSync(file, constants.O_RDWR | constants.O_CREAT, 0o666)
  try {
    writeAll(descriptor, Buffer.from(text), Math.min(size, fstatSync(descriptor).size))
    fsyncSync(descriptor)
  } finally {
    closeSync(descriptor)
  }
}

/** Takes what is behind the first `size` octets of a file away, if there is any. */
export function cutBehind(file: string, size: number): void {
  if (existsSync(file) && statSync(file).size > size) truncateSync(file, size)
}

/** A write may take less than it was given. */
function writeAll(descriptor: number, octets: Uint8Array, from?: number): void {
  for (let at = 0; at < octets.length; ) {
    const written = writeSync(descriptor, octets, at, octets.length - at, from === undefined ? null : from + at)
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
export function syncFolder(folder: string): void {
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

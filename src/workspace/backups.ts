/** Backups: copies of zone files as they were at a moment, in a folder a zone. What they are called, reading one, and how old ones are made small. */
import { createHash, randomBytes } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { basename, join } from 'node:path'
import { gunzipSync, gzipSync } from 'node:zlib'
import { bare, type Name } from '../core/names/name.ts'
import type { Refused } from '../core/result.ts'
import { lock } from './lock.ts'
import { systemText, Trouble } from './trouble.ts'
import { moveIntoPlace, stage } from './write.ts'

/** Where the copies of the files of a zone, or of a view of it, are. */
export const backupFolder = (folder: string, { zone, view }: { zone: Name; view?: string }): string => {
  const safe = (text: string): string => text.toLowerCase().replace(/[^a-z0-9._-]/g, '_')
  return join(folder, 'backups', `${safe(bare(zone))}${view === undefined ? '' : `@${safe(view)}`}`)
}

/** When a copy was kept, as it stands in its file's name: 2026-11-23T08-00-00-123Z. */
const stampText = (now: Date): string => now.toISOString().replace(/[:.]/g, '-')

/** What an entry of the log is called. */
export const freshId = (now: Date): string => `${stampText(now)}-${randomBytes(3).toString('hex')}`

/** Where a copy goes: the first of these that is not `taken`. */
export function copyName(folder: string, file: string, now: Date, taken: (path: string) => boolean): string {
  for (let n = 1; ; n++) {
    const path = join(folder, `${stampText(now)}${n === 1 ? '' : `-${n}`}_${basename(file)}`)
    if (!existsSync(path) && !existsSync(path + PACKED) && !taken(path)) return path
  }
}

/** Where a copy goes of what came in, where that was more than what is kept of it: behind the copies of what is, and of what that replaces. */
export const backupPath = (folder: string, zone: { zone: Name; view?: string }, file: string, now: Date): string =>
  join(backupFolder(folder, zone), `${stampText(now)}-3_${basename(file)}`)

/** 2026-11-23T08-00-00-123Z, perhaps with a number behind it, then the file’s own name. */
const NAME = /^(\d{4}-\d\d-\d\dT)(\d\d)-(\d\d)-(\d\d)-(\d{3}Z)(?:-\d+)?_(.+?)(?:\.gz)?$/
const PACKED = '.gz'

/** A copy that is there. */
export interface Copy {
  /** Without the ending of one that was made small. */
  path: string
  /** The file on the disk. */
  stored: string
  /** When the file was so: seconds since 1970. */
  at: number
  /** The name of the file that it is a copy of. */
  of: string
  /** On the disk. */
  octets: number
}

/** The copies in a folder, newest first. */
export function copiesIn(folder: string): Copy[] {
  let names: string[]
  try {
    names = readdirSync(folder)
  } catch {
    return []
  }
  const copies = new Map<string, Copy>()
  for (const name of names.sort().reverse()) {
    const [, day, hours, minutes, seconds, rest, of] = NAME.exec(name) ?? []
    if (of === undefined) continue
    const stored = join(folder, name)
    const path = stored.endsWith(PACKED) ? stored.slice(0, -PACKED.length) : stored
    const at = Date.parse(`${day}${hours}:${minutes}:${seconds}.${rest}`) / 1000
    // One that was being made small is there twice.
    copies.set(path, { path, stored, at, of, octets: statSync(stored).size })
  }
  return [...copies.values()]
}

/** A copy’s octets, whether it was made small or not. `sum`: what the log says of it; `at` says where it is while a change is not finished. */
export function readCopy(path: string, sum?: string, at = (path: string) => path): Uint8Array | Refused {
  const [stored] = [at(path), path + PACKED].filter((each) => existsSync(each))
  if (stored === undefined) return { refused: `the backup ${path} is not there any more` }
  try {
    const octets = readFileSync(stored)
    const whole = stored === path + PACKED ? gunzipSync(octets) : octets
    if (sum === undefined || sumOf(whole) === sum) return whole
    return { refused: `the backup ${stored} is not what was kept there: it was changed or damaged` }
  } catch (error) {
    const isSystem = (error as NodeJS.ErrnoException).syscall !== undefined
    return {
      refused: isSystem
        ? `cannot read the backup ${stored}: ${systemText(error)}`
        : `the backup ${stored} is damaged: it cannot be decompressed`,
    }
  }
}

/** What tells whether a copy is still what it was. */
export const sumOf = (octets: Uint8Array): string => createHash('sha256').update(octets).digest('hex').slice(0, 32)

/** Older copies are made small; so many at a time, so that no command waits for long. */
const PACKED_AFTER = 86_400
const AT_A_TIME = 8
const OCTETS_AT_A_TIME = 1 << 25

/**
 * Makes copies of a folder small that are older than a day. A call that is killed in between leaves both: each is whole. What cannot be done now is done another time.
 * `now`: seconds since 1970.
 */
export function packOld(folder: string, now: number): void {
  let octets = 0
  const old = copiesIn(folder).filter(({ at, path, stored }) => at < now - PACKED_AFTER && stored === path)
  for (const { path, octets: size } of old.slice(-AT_A_TIME)) {
    octets += size
    if (octets > OCTETS_AT_A_TIME) return
    try {
      const { from, to } = stage(path + PACKED, gzipSync(readFileSync(path)), { like: path })
      moveIntoPlace(from, to)
      rmSync(path)
    } catch {
      return
    }
  }
}

/** Removes copies, under the lock of the workspace. */
export async function removeCopies(folder: string, copies: readonly Copy[]): Promise<void> {
  const held = await lock([folder])
  try {
    for (const { stored, path } of copies) {
      held.check()
      for (const each of [stored, path, path + PACKED]) rmSync(each, { force: true })
    }
  } catch (error) {
    if (error instanceof Trouble) throw error
    throw new Trouble(`cannot remove backups: ${systemText(error)}`)
  } finally {
    await held.release()
  }
}

/** How long copies are kept: by their age in days, and how many of a zone. */
export interface Retention {
  days?: number
  copies?: number
}

/** The copies of a zone that need not be kept any longer, oldest first; those of `needed` always are. `now`: seconds since 1970. */
export function dispensable(
  copies: readonly Copy[],
  { days, copies: most }: Retention,
  needed: ReadonlySet<string>,
  now: number,
): Copy[] {
  const isOld = ({ at }: Copy, i: number): boolean =>
    (days !== undefined && at < now - days * 86_400) || (most !== undefined && i >= most)
  return copies.filter((copy, i) => isOld(copy, i) && !needed.has(copy.path)).reverse()
}

/** Zone files on disk: reading, and replacing under a lock with a copy of what was there kept first. */
import { existsSync, linkSync, mkdirSync, readFileSync, realpathSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, isAbsolute, join, sep } from 'node:path'
import type { Included } from '../core/file/reading.ts'
import { zoneNameClues } from '../core/file/zone-name.ts'
import { toAsciiName } from '../core/names/idna.ts'
import { bare, foldName, isAtOrBelow, type Name, toName } from '../core/names/name.ts'
import { systemText, Trouble } from './trouble.ts'
import { createFile, isStill, type Staged, stage } from './write.ts'

/** A zone file's octets. Node itself refuses files of 2 GiB and more, and places in a file are kept on 32 bits. */
export function readFileOrTrouble(file: string): Uint8Array {
  try {
    return readFileSync(file)
  } catch (error) {
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
}

/**
 * Reads the files that `$INCLUDE` names, relative to the folder of the file that includes them. They must lie in that folder or below it, unless `anywhere`:
 * a zone file that was handed over shall not read what is not its own.
 */
export function includer(
  anywhere: boolean,
  instead?: ReadonlyMap<string, Uint8Array>,
): (name: string, from: string) => Included {
  return (name, from) => {
    const folder = dirname(from)
    const path = isAbsolute(name) ? name : join(folder, name)
    try {
      const real = realpathSync(path)
      if (!anywhere && !real.startsWith(realpathSync(folder) + sep))
        return { failed: 'it lies outside the folder of the file that includes it (--include-anywhere allows that)' }
      return { file: path, octets: instead?.get(path) ?? readFileSync(path) }
    } catch (error) {
      return { failed: systemText(error) }
    }
  }
}

/** The zone that a file’s name says it is for, or undefined. */
function zoneFromFileName(file: string): Name | undefined {
  const name = basename(file)
    .replace(/\.(zone|db|txt)$/i, '')
    .replace(/^db\./i, '')
  const ascii = toAsciiName(name)
  return name === '' || 'refused' in ascii ? undefined : toName(ascii.name)
}

/** A zone's name as typed, internationalised labels made A-labels. */
export function statedZone(stated: string): Name {
  const ascii = toAsciiName(stated)
  const name = 'refused' in ascii ? undefined : toName(ascii.name)
  if (!name) throw new Trouble(`${stated} is no domain name${'refused' in ascii ? `: ${ascii.refused}` : ''}`)
  return name
}

/**
 * The zone that a bare file is for: what the caller states, else the SOA record's owner, else an absolute `$ORIGIN`, else the file's name.
 * Asks for `--zone` where these leave it open, or where the file's name and its `$ORIGIN` say different things.
 */
export function zoneNameFor(file: string, octets: Uint8Array, stated?: string): Name {
  if (stated !== undefined) return statedZone(stated)
  const clues = zoneNameClues(octets)
  if (clues.soaOwner) return clues.soaOwner
  const fromName = zoneFromFileName(file)
  const ask = `state the zone, as in: --zone hollowmere.example`
  if (clues.origin) {
    if (
      fromName &&
      bare(fromName).includes('.') &&
      /\.zone$/i.test(file) &&
      !isAtOrBelow(clues.origin, fromName) &&
      foldName(fromName) !== foldName(clues.origin)
    )
      throw new Trouble(`${file}: its name says ${bare(fromName)}, its $ORIGIN says ${bare(clues.origin)}; ${ask}`)
    return clues.origin
  }
  if (!fromName) throw new Trouble(`${file}: nothing says which zone it is for; ${ask}`)
  if (!bare(fromName).includes('.'))
    throw new Trouble(
      `${file}: nothing in it says which zone it is for, and its name gives “${bare(fromName)}”, a single label; ${ask}`,
    )
  return fromName
}

/** When a copy was kept, as it stands in its file's name: 2026-11-23T08-00-00-123Z. */
const stamp = (now: Date): string => now.toISOString().replace(/[:.]/g, '-')

/**
 * Keeps a large file by another name for the very file that is about to be replaced (its successor is a new one), instead of writing it out again.
 * Not where it has other names already: somebody may write through one of them.
 */
function keptByLink(file: string, length: number, path: string): boolean {
  if (length < LARGE) return false
  try {
    const real = realpathSync(file)
    const { nlink, size } = statSync(real)
    if (nlink !== 1 || size !== length) return false
    linkSync(real, path)
    return true
  } catch {
    return false
  }
}
const LARGE = 1 << 20

/** Where copies of a zone's files are kept. */
export const backupFolder = (folder: string, zone: Name): string =>
  join(folder, 'backups', bare(foldName(zone)).replace(/[^a-z0-9._-]/g, '_'))

/** Puts a copy of a file of a zone under `folder/backups/ZONE/` and returns its path. */
function keepCopy(folder: string, zone: Name, file: string, octets: Uint8Array, now: Date): string {
  const keep = backupFolder(folder, zone)
  mkdirSync(keep, { recursive: true })
  let path = join(keep, `${stamp(now)}_${basename(file)}`)
  for (let n = 2; existsSync(path); n++) path = join(keep, `${stamp(now)}-${n}_${basename(file)}`)
  if (!keptByLink(file, octets.length, path)) createFile(path, octets)
  return path
}

/** Refuses a file that a server changes by itself: its journal holds what the file does not (yet). */
export function refuseJournal(file: string): void {
  if (existsSync(`${file}.jnl`))
    throw new Trouble(
      `${file} has a journal beside it (${basename(file)}.jnl): a server changes this zone by itself, and would not notice, or would overwrite, a change of the file`,
    )
}

/** A zone's file, and what was in it when it was read. */
interface Locked {
  file: string
  zone: Name
  octets: Uint8Array
}

export interface Replacing {
  /** What is in the file now: what was in it when it was read, where it still is that. */
  octets: Uint8Array
  /** Replaces it, and files that it includes, each whole or not at all; returns the backup's path (those of included files lie beside it). */
  replace(
    octets: Uint8Array,
    included: { file: string; before: Uint8Array; octets: Uint8Array }[],
    now: Date,
  ): Promise<string>
}

/** What is in a file now: `known` itself where it still is that. A large file is compared a piece at a time, so that it need not be held twice. */
function readAgain(file: string, known: Uint8Array): Uint8Array {
  return isStill(file, known) ? known : readFileOrTrouble(file)
}

/**
 * Holds the lock of a zone file while `work` runs, so that two writers follow one another. `folder` is where backups go.
 * Symbolic links are followed, modes and owners kept; a file that somebody else is writing is waited for, for about two seconds.
 */
export async function whileLocked<T>(
  { file, zone, octets: known }: Locked,
  folder: string,
  work: (replacing: Replacing) => Promise<T>,
): Promise<T> {
  refuseJournal(file)
  const { default: lockfile } = await import('proper-lockfile')
  let release: () => Promise<void>
  try {
    release = await lockfile.lock(file, { retries: { retries: 8, minTimeout: 50, maxTimeout: 400 }, stale: 10_000 })
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    throw new Trouble(
      code === 'ELOCKED'
        ? `${file} is being written by another call; try again when it is done`
        : `cannot write ${file}: ${systemText(error)}`,
    )
  }
  try {
    const octets = readAgain(file, known)
    return await work({
      octets,
      async replace(next, included, now) {
        // Included files have no lock of their own: another zone's writer may have been there since they were read.
        for (const each of included)
          if (!isStill(each.file, each.before))
            throw new Trouble(`${each.file} was changed in the meantime; nothing was written: try again`)
        const copies: string[] = []
        const ready: Staged[] = []
        let here = file
        try {
          // All is on the disk before anything takes its place.
          for (const each of [...included, { file, before: octets, octets: next }]) {
            here = each.file
            ready.push(stage(here, each.octets))
            copies.push(keepCopy(folder, zone, here, each.before, now))
          }
          // Included files first: until the zone's own file follows, its serial says that nothing has changed.
          for (const each of ready) each.commit()
          return copies.at(-1)!
        } catch (error) {
          for (const each of ready) each.discard()
          for (const each of copies) rmSync(each, { force: true })
          throw new Trouble(`cannot write ${here}: ${systemText(error)}; it is as it was`)
        }
      },
    })
  } finally {
    await release().catch(() => {})
  }
}

/** The folder for backups of a bare file. */
export const folderOf = (file: string): string => dirname(file)

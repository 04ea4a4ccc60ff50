/**
 * The journal: what is about to take its place, written down before the first file does. Whoever finds one finishes it, or reads around it;
 * so that many files change as one, whatever happens in between.
 */
import { existsSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, join, resolve } from 'node:path'
import { systemText, Trouble } from './trouble.ts'
import { appendAt, linkIntoPlace, moveIntoPlace, replaceFile, STAGED, syncFolder } from './write.ts'

/** A file that takes its place: what it is called until then, and (size, time, number of its inode) what is there before; nothing where there must be none. */
export interface Move {
  from: string
  to: string
  before?: string
}

export interface Journal {
  format: 1
  /** Of the change; none before there is anything to do. */
  id?: string
  /** Before there is anything to do: where files are written beside their places just now. What is left of them is nobody’s. */
  staging?: string[]
  at: string
  /** The call, without secrets. */
  command: string
  /** What is put behind so many octets of the log. */
  log?: { file: string; size: number; text: string }
  moves: Move[]
  /** Zone files that are new: no pattern finds them before they are in their places. */
  zones: string[]
}

/** Where the journal of a folder (a workspace) or of a bare file is. */
export const journalFile = (place: string): string =>
  existsSync(place) && statSync(place).isDirectory()
    ? join(place, '.bramblefront.journal')
    : join(dirname(place), `.${basename(place)}.journal`)

/** The journal that stands, if one does. */
export function readJournal(place: string): Journal | undefined {
  const file = journalFile(place)
  let text: string
  try {
    text = readFileSync(file, 'utf8')
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
  try {
    const journal = JSON.parse(text) as Journal
    if (journal.format === 1 && Array.isArray(journal.moves)) return journal
  } catch {
    // It is told below.
  }
  throw new Trouble(`${file} cannot be read: it is not a journal of this program. Find out what it is and move it away`)
}

export const writeJournal = (place: string, journal: Journal, check?: () => void): void =>
  replaceFile(journalFile(place), `${JSON.stringify(journal)}\n`, check)

/** Says where files are about to be written beside their places, so that those of a call that is killed can be found. */
export const noteStaging = (place: string, folders: string[], check?: () => void): void =>
  writeJournal(place, { format: 1, staging: folders, at: '', command: '', moves: [], zones: [] }, check)

/** What calls that were killed left beside files. */
export function leftOvers(folder: string, of = ''): string[] {
  try {
    return readdirSync(folder)
      .filter((name) => STAGED.test(name) && name.startsWith(`.${of}`))
      .map((name) => join(folder, name))
  } catch {
    // It was to be made.
    return []
  }
}

/** Whether an earlier call was cut short. */
export function isUnfinished(place: string): boolean {
  const file = journalFile(place)
  return existsSync(file) || leftOvers(dirname(file), `${basename(file)}.`).length > 0
}

export function dropJournal(place: string): void {
  rmSync(journalFile(place), { force: true })
  syncFolder(dirname(journalFile(place)))
}

/** What tells a file from another, or from itself after a change: undefined where there is none. */
export function stampOf(file: string): string | undefined {
  try {
    const { size, mtimeMs, ino } = statSync(file)
    return `${size} ${mtimeMs} ${ino}`
  } catch {
    return undefined
  }
}

/** Puts a file into its place, unless it is there already. Trouble where something else is. */
export function move({ from, to, before }: Move): void {
  if (!existsSync(from)) return
  const there = stampOf(to)
  // It was linked there, and not taken away here.
  const isThere = before === undefined && there !== undefined && statSync(to).ino === statSync(from).ino
  if (isThere) rmSync(from)
  else if (there !== before)
    throw new Trouble(
      `${to} was changed in the meantime. The new version is in ${from}: compare them, merge what you want, remove ${from}, and call again`,
    )
  else if (before === undefined) linkIntoPlace(from, to)
  else moveIntoPlace(from, to)
}

/**
 * Does what a journal says and is not done yet, and takes it away. Under the lock; `check` says whether that is still ours. Returns whether there was one.
 * Whoever had the lock before may only have been suspended: what they have staged goes first, so that it can no longer take its place, and only then is the
 * journal read. What it says to do may be done twice.
 */
export function finishJournal(place: string, check = () => {}): Journal | undefined {
  const file = journalFile(place)
  const remove = (found: readonly string[]): void => {
    check()
    for (const each of found) rmSync(each, { force: true })
  }
  remove(leftOvers(dirname(file), `${basename(file)}.`))
  const journal = readJournal(place)
  if (!journal) return undefined
  const { staging, log, moves } = journal
  try {
    remove((staging ?? []).flatMap((folder) => leftOvers(folder)))
    if (log) appendAt(log.file, log.size, log.text)
    for (const each of moves) {
      check()
      move(each)
    }
    check()
    dropJournal(place)
  } catch (error) {
    check()
    if (error instanceof Trouble) throw error
    throw new Trouble(
      `cannot finish the change of ${journal.at} (${journal.command}): ${systemText(error)}; the next call tries again`,
    )
  }
  return staging ? undefined : journal
}

/** Where what a path holds is to be read while a journal stands: the state after it. */
export class Unfinished {
  readonly journal: Journal | undefined
  private readonly instead: Map<string, string>

  constructor(place: string) {
    const journal = readJournal(place)
    this.journal = journal?.staging ? undefined : journal
    this.instead = new Map(this.journal?.moves.map(({ from, to }) => [resolve(to), from]))
  }

  at(path: string): string {
    const from = this.instead.size === 0 ? undefined : this.instead.get(resolve(path))
    return from !== undefined && existsSync(from) ? from : path
  }

  /** The files of a folder that it brings. */
  namesIn(folder: string): string[] {
    return [...this.instead.keys()].filter((path) => dirname(path) === resolve(folder)).map((path) => basename(path))
  }

  /** What is said of it to those who read. */
  get warning(): string | undefined {
    return (
      this.journal &&
      `The change of ${this.journal.at} (${this.journal.command}) was interrupted. The state after it is shown; the next command that writes will finish it.`
    )
  }
}

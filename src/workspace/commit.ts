/**
 * The one way in which anything is written: files of zones, what goes with them, a copy of each as it was, the entry in the log. All of it, or nothing.
 * What is new is written and synced beside, then the journal says what is to come, then each file takes its place. A call that is cut short in between is
 * finished by the next one.
 */
import { existsSync, lstatSync, mkdirSync, realpathSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, join, relative, resolve, sep } from 'node:path'
import type { FileBeside, FileChange } from '../core/change/change-set.ts'
import type { DataEntry } from '../core/change/entry.ts'
import type { Published } from '../core/history/states.ts'
import { foldName, type Name } from '../core/names/name.ts'
import { jsonText } from '../core/printable.ts'
import { backupFolder, copyName, freshId, packOld, sumOf } from './backups.ts'
import { type Edit, handEdits } from './hand-edits.ts'
import {
  dropJournal,
  finishJournal,
  isUnfinished,
  type Journal,
  type Move,
  move,
  noteStaging,
  readJournal,
  stampOf,
  writeJournal,
} from './journal.ts'
import { type Held, lock } from './lock.ts'
import { LOG_FILE, logEnd } from './log.ts'
import { IN_ONE_PIECE } from './states.ts'
import { systemText, Trouble } from './trouble.ts'
import { appendAt, cutBehind, isStill, type Staged, stage, stageLink } from './write.ts'

/** Where a commit belongs. */
export interface Place {
  /** The workspace’s folder, or a bare file outside of any: it has the lock and the journal. */
  root: string
  /** The folder that has backups/. */
  backups: string
  /** Whether the log of the workspace takes it up. */
  logged: boolean
}

export interface Writes {
  zones: readonly ZoneWrite[]
  beside: readonly FileBeside[]
  /** Zone files among these that are new. */
  newZones?: readonly string[]
  /** The call, without secrets. */
  command: string
  now: Date
}

export interface ZoneWrite {
  zone: Name
  view?: string
  /** Included files first, the zone’s own last. */
  files: readonly FileChange[]
  /** What the log says of it, beside id, time, call and backup. */
  entry: Said
  /** What the backup of the entry holds, where that is not the zone’s own file as it was. */
  copy?: Uint8Array
  /** All of the zone as the backup has it, where its file includes others: in one piece. */
  whole?: Uint8Array
}

type Shared = 'id' | 'at' | 'zone' | 'command' | 'backup' | 'sum' | 'whole' | 'wholeSum'
/** A zone that became another one. */
export type ChangeEntry = Omit<DataEntry, Shared>
/** The same, or that it was published as it is. */
type Said = ChangeEntry | (Omit<Published, Shared> & { file: string; was?: undefined })

export interface Committed {
  id: string
  /** Of each zone, the copy of its own file as it was. */
  backups: (string | undefined)[]
  /** What to know of how it was written. */
  notes: string[]
}

/**
 * Writes it all, or nothing (Trouble). Where a file is no longer what it was when it was read, `again` makes the change anew, under the lock;
 * it returns undefined where that is not to be written.
 */
export async function commit(
  place: Place,
  first: Writes,
  again: () => Promise<Writes | undefined>,
): Promise<Committed | undefined> {
  const held = await lock(locked(place, first))
  try {
    finishJournal(place.root, held.check)
    let writes: Writes | undefined = first
    if (!isAsRead(first)) {
      writes = await again()
      if (!writes) return undefined
      if (!isAsRead(writes) || locked(place, writes).some((each) => !locked(place, first).includes(each)))
        throw new Trouble('the files keep changing while they are read; nothing was written: try again')
    }
    const edits = place.logged ? handEdits(place.root, writes.zones) : []
    const committed = put(place, writes, edits, held)
    if (held.isOurs())
      for (const each of writes.zones) packOld(backupFolder(place.backups, each), writes.now.getTime() / 1000)
    return committed
  } finally {
    await held.release()
  }
}

/** Finishes what an earlier call left undone, before anything is read; returns what it was. */
export async function finishUnfinished(root: string): Promise<Journal | undefined> {
  if (!existsSync(root) || !isUnfinished(root)) return undefined
  const held = await lock([root])
  try {
    return finishJournal(root, held.check)
  } finally {
    await held.release()
  }
}

const isFolder = (path: string): boolean => existsSync(path) && statSync(path).isDirectory()

/** What is locked for a change: the workspace, and each file that is not in it. */
function locked({ root }: Place, { zones }: Writes): string[] {
  const files = zones.flatMap((zone) => zone.files.map(({ file }) => resolve(file)))
  const outside = isFolder(root) ? files.filter((file) => !isBelow(resolve(root), file)) : files
  return [resolve(root), ...outside.filter((file) => file !== resolve(root))]
}

const isBelow = (folder: string, path: string): boolean => path.startsWith(folder.endsWith(sep) ? folder : folder + sep)

const isAsRead = ({ zones, beside }: Writes): boolean =>
  zones.every(({ files }) => files.every(({ file, before }) => isStill(file, before))) &&
  beside.every(({ path, before }) => (before ? isStill(path, before) : !existsSync(path)))

/** A copy that was kept. */
interface Backup {
  path: string
  octets: Uint8Array
  whole?: { path: string; octets: Uint8Array }
}

/** From so many octets on, a file that is replaced is kept by another name for it, and not written out again. */
const LARGE = 1 << 20

function put(place: Place, writes: Writes, edits: readonly (Edit | undefined)[], held: Held): Committed {
  const { zones, beside, newZones = [], command, now } = writes
  const id = freshId(now)
  const staged: Move[] = []
  let here = place.root
  try {
    const take = ({ from, to }: Staged): void => {
      staged.push({ from, to: resolve(to), before: stampOf(to) })
      held.check()
    }
    const notes = zones.flatMap(({ files }) => files.flatMap(({ file }) => oddities(place, (here = file))))
    here = place.root
    noteStaging(place.root, foldersOf(place, writes), held.check)
    const isTaken = (path: string): boolean => staged.some(({ to }) => to === resolve(path))
    const backups = zones.map((each): Backup | undefined => {
      const folder = backupFolder(place.backups, each)
      let backup: Backup | undefined
      for (const { file, before } of each.files) {
        here = file
        const path = copyName(folder, file, now, isTaken)
        backup = { path, octets: before }
        makeFolder(place, path)
        const linked = before.length >= LARGE && statSync(file).nlink === 1 ? stageLink(path, file) : undefined
        take(linked ?? stage(path, before, { like: file }))
      }
      const keep = (name: string, octets: Uint8Array): Backup => {
        const path = copyName(folder, name, now, isTaken)
        makeFolder(place, path)
        take(stage(path, octets))
        return { path, octets }
      }
      if (each.copy) backup = keep(each.entry.file, each.copy)
      if (!backup || !each.whole) return backup
      return { ...backup, whole: keep(basename(each.entry.file) + IN_ONE_PIECE, each.whole) }
    })
    for (const { path, content, mode, folderMode } of beside) {
      makeFolder(place, (here = path), folderMode)
      take(stage(path, content, { mode }))
    }
    // Included files first: until the zone's own file follows, its serial says that nothing has changed.
    for (const { file, octets } of zones.flatMap(({ files }) => files)) take(stage((here = file), octets))
    here = place.root
    const log = place.logged ? logText(place, id, writes, backups, edits) : undefined
    if (!isAsRead(writes)) throw new Trouble('a file was changed in the meantime; nothing was written: try again')
    const journal: Journal = {
      format: 1,
      id,
      at: now.toISOString(),
      command,
      log,
      moves: staged,
      zones: newZones.map((each) => resolve(each)),
    }
    writeJournal(place.root, journal, held.check)
    if (!carryOut(place, journal, held))
      notes.push('This call was suspended for a while; another one finished its change.')
    return { id, backups: backups.map((each) => each?.path), notes }
  } catch (error) {
    if (isStanding(place, id)) throw error
    for (const { from } of staged) rmSync(from, { force: true })
    if (held.isOurs()) dropJournal(place.root)
    if (error instanceof Trouble) throw error
    held.check()
    throw new Trouble(`cannot write ${here}: ${systemText(error)}; it was not changed`)
  }
}

/** Where something will be written beside its place. */
function foldersOf(place: Place, { zones, beside }: Writes): string[] {
  const real = (path: string): string => (existsSync(path) ? realpathSync(path) : path)
  const files = [...zones.flatMap(({ files }) => files.map(({ file }) => file)), ...beside.map(({ path }) => path)]
  const copies = zones.map((zone) => backupFolder(place.backups, zone))
  return [...new Set([...files.map((file) => dirname(real(resolve(file)))), ...copies.map((copy) => resolve(copy))])]
}

/** Whether the journal of a change is still to be done. */
const isStanding = ({ root }: Place, id: string | undefined): boolean => readJournal(root)?.id === id

/**
 * Does what the journal says; false where another call did that, which took the lock over. What fails before a file was replaced is taken back; else the
 * journal stands, and the next call goes on.
 */
function carryOut(place: Place, { id, log, moves, at }: Journal, { check, isOurs }: Held): boolean {
  const done: Move[] = []
  try {
    if (log) appendAt(log.file, log.size, log.text)
    for (const each of moves) {
      check()
      move(each)
      done.push(each)
    }
    check()
    dropJournal(place.root)
    return true
  } catch (error) {
    // Who takes the lock over finishes the change before anything else.
    if (!isOurs() && !isStanding(place, id)) return false
    if (isOurs() && done.every(({ before }) => before === undefined)) {
      for (const { to } of done) rmSync(to, { force: true })
      if (log) cutBehind(log.file, log.size)
      dropJournal(place.root)
      throw error
    }
    throw new Trouble(
      `${error instanceof Trouble ? error.message : `cannot write: ${systemText(error)}`}. The change of ${at} is incomplete; the next command that writes will finish it`,
    )
  }
}

/** What the log says: a line for each zone. */
function logText(
  place: Place,
  id: string,
  { zones, command, now }: Writes,
  backups: readonly (Backup | undefined)[],
  edits: readonly (Edit | undefined)[],
): Journal['log'] {
  const { root } = place
  const file = join(root, LOG_FILE)
  refuseLinksOut(place, file)
  const { size, open } = logEnd(file)
  const lines = zones.flatMap(({ zone, entry }, i) => {
    const backup = backups[i]
    const kept = {
      backup: backup === undefined ? null : relative(root, backup.path),
      ...(backup && { sum: sumOf(backup.octets) }),
      ...(backup?.whole && { whole: relative(root, backup.whole.path), wholeSum: sumOf(backup.whole.octets) }),
    }
    const lineOf = (said: Said, id: string): object => ({
      id,
      at: now.toISOString(),
      zone: foldName(zone),
      command,
      ...said,
      ...kept,
    })
    // The copy of the file as it was before this change is that of what was edited, too.
    return [...(edits[i] ? [lineOf(edits[i], freshId(now))] : []), lineOf(entry, id)]
  })
  return { file, size, text: (open ? '\n' : '') + lines.map((line) => `${jsonText(line)}\n`).join('') }
}

/** Makes the folder that a file is to be in. */
function makeFolder(place: Place, file: string, mode?: number): void {
  const folder = dirname(file)
  refuseLinksOut(place, file)
  if (mode !== undefined && existsSync(folder) && statSync(folder).mode & 0o022)
    throw new Trouble(`${folder} is writable by others, who could put their own keys there. Fix: chmod go-w ${folder}`)
  mkdirSync(folder, { recursive: true, ...(mode === undefined ? {} : { mode }) })
}

/** Refuses what is no ordinary file, and what a server changes by itself; says what else to know of it. */
function oddities(place: Place, file: string): string[] {
  refuseLinksOut(place, file)
  const { nlink } = statSync(file)
  if (!statSync(file).isFile()) throw new Trouble(`${file} is not a regular file and cannot be replaced`)
  if (existsSync(`${file}.jnl`))
    throw new Trouble(
      `${file} has a journal next to it (${basename(file)}.jnl): a server updates this zone dynamically, and would not notice a change to the file, or would overwrite it`,
    )
  return nlink === 1 ? [] : [`${file} had ${nlink} names (hard links): the others keep the old content.`]
}

/** Nothing is written through a link that leads out of the workspace, wherever on the way it stands. */
function refuseLinksOut({ root }: Place, file: string): void {
  const folder = resolve(root)
  if (!isFolder(folder) || !isBelow(folder, resolve(file))) return
  const real = realpathSync(folder)
  let path = folder
  for (const part of relative(folder, resolve(file)).split(sep)) {
    path = join(path, part)
    let isLink: boolean
    try {
      isLink = lstatSync(path).isSymbolicLink()
    } catch {
      return
    }
    if (isLink && !(existsSync(path) && isBelow(real, realpathSync(path))))
      throw new Trouble(
        `${path} is a link that leads out of the workspace${existsSync(path) ? '' : ', to nothing'}: nothing is written through it. Name the file itself in bramblefront.yaml, or remove the link`,
      )
  }
}

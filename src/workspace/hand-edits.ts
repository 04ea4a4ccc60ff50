/** What people edited in zone files themselves, between two commands. */
import type { FileChange } from '../core/change/change-set.ts'
import { differences, setsOf } from '../core/change/difference.ts'
import { type DataEntry, entrySets } from '../core/change/entry.ts'
import { serialOf } from '../core/file/serial.ts'
import { afterEntry, entriesOf, newest } from '../core/history/states.ts'
import { foldName, type Name } from '../core/names/name.ts'
import { isRefused } from '../core/result.ts'
import { readLog } from './log.ts'
import { keptState } from './states.ts'
import { loadZones, type ZoneFile } from './workspace.ts'

/** An entry of the log, but for what all entries of a commit share. */
export type Edit = Omit<DataEntry, 'id' | 'at' | 'zone' | 'command' | 'backup' | 'sum'>

/** A zone as a command found it. */
interface Found {
  zone: Name
  view?: string
  /** The zone’s own file last; none where it is new. */
  files: readonly Pick<FileChange, 'file' | 'before'>[]
  entry: Pick<DataEntry, 'file' | 'was'>
}

/** For each zone what was edited since its newest entry; undefined where nothing was, or nothing is known of how it was. `folder`: the workspace. */
export function handEdits(folder: string, zones: readonly Found[]): (Edit | undefined)[] {
  // What was only published is as it was: then the log, which may be long, need not be read.
  const changed = zones.filter(({ files, entry }) => files.length > 0 && entry.was !== undefined)
  if (changed.length === 0) return zones.map(() => undefined)
  const known = newestOf(
    folder,
    changed.map(({ zone }) => zone),
  )
  return zones.map(({ zone, view, files, entry }) => {
    const last = known(zone, view)
    const own = files.at(-1)
    if (!last || !own || entry.was === undefined || last.digest === entry.was) return undefined
    return editSince(folder, last, { zone, view, file: own.file, octets: own.before }, entry.was)
  })
}

/** The newest entries of these zones. */
function newestOf(folder: string, zones: readonly Name[]): (zone: Name, view?: string) => DataEntry | undefined {
  const lines = readLog(folder, zones)
  return (zone, view) => newest(entriesOf(lines, zone).filter((each) => each.view === view))
}

/** What was edited in a zone since an entry. `digest` is that of its data now. */
export function editSince(folder: string, last: DataEntry, file: ZoneFile, digest: string): Edit {
  const held = afterEntry(last)
  const then = isRefused(held) ? held : keptState(folder, file, held)
  const zones = loadZones([file])
  const zone = zones.zones.find((each) => foldName(each.name) === foldName(file.zone))!
  const [before, after] = [isRefused(then) ? undefined : then.serial, serialOf(zones, zone)]
  return {
    what: 'edited',
    ...(file.view === undefined ? {} : { view: file.view }),
    file: last.file,
    serial: before === undefined || after === undefined ? null : { before, after },
    sets: isRefused(then) ? [] : entrySets(differences(then.sets, setsOf(zones, zone))),
    findings: { added: [], gone: [] },
    was: last.digest,
    digest,
  }
}

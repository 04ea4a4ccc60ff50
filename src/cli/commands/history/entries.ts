/** Entries of the log as they are shown: what of them is about what was asked for, and those that are one. */
import { statSync } from 'node:fs'
import { zoneDigest } from '../../../core/change/digest.ts'
import { type DataEntry, isDataEntry } from '../../../core/change/entry.ts'
import type { Entry } from '../../../core/history/states.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { editSince } from '../../../workspace/hand-edits.ts'
import { loadZones, type Workspace, type ZoneFile } from '../../../workspace/workspace.ts'
import type { HistoryDocument } from '../../documents/history.ts'
import type { SourceOptions } from '../source.ts'

export type Shown = HistoryDocument['entries'][number]

/** What is asked for: everything, a zone, a name or a set of it. */
export interface Asked {
  zone?: Name
  owner?: Name
  type?: string
}

/** What was edited by hand and has no entry yet. `last`: the newest one that the zone has. */
export function unnoted(
  { folder }: Workspace,
  file: ZoneFile,
  last: DataEntry | undefined,
  options: SourceOptions,
): Shown[] {
  if (!last) return []
  const zones = loadZones([file], options.includeAnywhere)
  const digest = zoneDigest(zones, zones.zones[0]!)
  if (digest === last.digest) return []
  const edit = editSince(folder, last, file, digest)
  return [
    {
      ...NOTHING,
      id: null,
      at: new Date(statSync(file.file).mtimeMs).toISOString(),
      zone: foldName(file.zone),
      view: file.view ?? null,
      what: 'edited',
      serial: edit.serial,
      sets: edit.sets,
    },
  ]
}

const NOTHING = {
  command: null,
  serial: null,
  backup: null,
  by: null,
  sets: [],
  seen: [],
  counts: {},
  vantages: [],
  open: [],
}

/** Entries as they are shown; the messages of one publishing are one. */
export function* asOne(entries: Iterable<Entry>): Generator<Shown> {
  let last: { run: string | undefined; shown: Shown } | undefined
  for (const entry of entries) {
    const run = entry.what === 'published' ? entry.run : undefined
    const shown = entryShown(entry)
    if (
      last &&
      run !== undefined &&
      last.run === run &&
      last.shown.zone === shown.zone &&
      last.shown.view === shown.view
    ) {
      const { shown: later } = last
      last = {
        run,
        shown: {
          ...later,
          seen: later.seen.length === 0 ? [] : [...shown.seen, ...later.seen],
          serial: serialOver(shown.serial, later.serial),
        },
      }
      continue
    }
    if (last) yield last.shown
    last = { run, shown }
  }
  if (last) yield last.shown
}

/** From the first serial of several entries to the last one. */
const serialOver = (first: Shown['serial'], last: Shown['serial']): Shown['serial'] =>
  first === null || last === null ? (last ?? first) : { before: first.before, after: last.after }

export function* whatIsAbout(entries: Iterable<Shown>, asked: Asked): Generator<Shown> {
  for (const each of entries) yield* about(each, asked)
}

function entryShown(entry: Entry): Shown {
  const { id = null, at, zone, view = null, what } = entry
  const common = { ...NOTHING, id, at, zone, view, what }
  if (isDataEntry(entry)) {
    const { command, serial, sets, backup } = entry
    // What a command wrote as it was is no change.
    const changed = sets.filter(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after))
    return {
      ...common,
      command: (what === 'edited' ? undefined : command) ?? null,
      serial: serial ?? null,
      sets: changed,
      backup: backup ?? null,
    }
  }
  if (entry.what === 'published')
    return {
      ...common,
      backup: entry.backup ?? null,
      by: entry.by,
      command: entry.command ?? null,
      serial: serialShown(entry.serial),
      seen: entry.sets.map(([owner, type]) => ({ owner, type })),
    }
  return {
    ...common,
    serial: serialShown(entry.serial),
    counts: entry.counts,
    vantages: entry.vantages,
    open: entry.open.map(({ owner, type, status, verdicts }) => ({
      owner,
      type,
      status,
      verdicts: Object.entries(verdicts).map(([vantage, verdict]) => ({ vantage, verdict })),
    })),
  }
}

const serialShown = (serial: number | null): Shown['serial'] =>
  serial === null ? null : { before: serial, after: serial }

/** What of an entry is about what is asked for; nothing where it is not about it at all. */
export function about(entry: Shown, { owner, type }: Asked): Shown[] {
  if (owner === undefined) return [entry]
  const isMeant = (set: { owner: Name; type: string }): boolean =>
    foldName(set.owner) === owner && (type === undefined || set.type === type)
  const own = {
    ...entry,
    sets: entry.sets.filter(isMeant),
    seen: entry.seen.filter(isMeant),
    open: entry.open.filter(isMeant),
  }
  const isAbout = entry.what === 'confirmation' || entry.what === 'adopted' || own.sets.length + own.seen.length > 0
  return isAbout ? [own] : []
}

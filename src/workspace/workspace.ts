/** A workspace: the folder with bramblefront.yaml, and the kept zones that it names. */
import { existsSync, readFileSync } from 'node:fs'
import { dirname, join, normalize, resolve, sep } from 'node:path'
import type { Vantage } from '../core/confirm/observation.ts'
import type { ServerEntry } from '../core/confirm/vantage.ts'
import { readZone } from '../core/file/reader.ts'
import { type Zone, Zones, type ZoneTraits } from '../core/model/zones.ts'
import { bare, foldName, type Name } from '../core/names/name.ts'
import type { Surroundings } from '../core/rules/rule.ts'
import type { Style } from '../core/sheet/style.ts'
import type { Retention } from './backups.ts'
import type { Delivery } from './config.ts'
import type { BuiltIn } from './config-schema.ts'
import { includer, readFileOrTrouble, zoneNameFor, zoneOf } from './files.ts'
import { stampOf, Unfinished } from './journal.ts'
import { nearest } from './nearest.ts'
import { notices, systemText, Trouble } from './trouble.ts'
import { LEAST_FILES, readIndex, type ZoneIndex } from './zone-index.ts'

export const CONFIG_FILE = 'bramblefront.yaml'

export interface ZoneFile extends ZoneTraits {
  zone: Name
  /** As messages name it: relative to where the program runs. */
  file: string
  octets: Uint8Array
  /** The form of the host that it is kept at, by its label: the zone has no serial of its own. */
  sheet?: string
  /** Where what a path holds is to be read: elsewhere, while a change is not finished. */
  at?: (path: string) => string
  /** Its whole path, and what tells it from another file, or from itself after a change; where the workspace has so many files that an index is kept of them. */
  indexed?: { path: string; stamp?: string }
}

export interface Workspace {
  folder: string
  /** Their octets are read when they are first looked at. */
  files: ZoneFile[]
  /** What is known of files without reading them. */
  index: ZoneIndex
  /** Files that were left out, since nothing says which zone they are for. */
  unnamed: string[]
  /** Whom confirm asks. */
  vantages: (BuiltIn | Vantage)[]
  servers: ServerEntry[]
  /** How many days a step of a DMARC policy must have been published before the next. */
  stepDays: number
  /** Styles of web forms. */
  sheets: Style[]
  /** How long backups are kept. */
  retention: Retention
  /** How zones get to their servers. */
  deliveries: Delivery[]
  /** What bramblefront.yaml says beyond the zones: for the rules. */
  around: Surroundings
}

/** The file of a zone, by its name in any case; of several views, the first. */
export function fileOf({ files }: Pick<Workspace, 'files'>, zone: Name): ZoneFile | undefined {
  let byZone = filesByZone.get(files)
  if (!byZone) {
    byZone = new Map()
    for (const file of files) {
      const name = foldName(file.zone)
      if (!byZone.has(name)) byZone.set(name, file)
    }
    filesByZone.set(files, byZone)
  }
  return byZone.get(foldName(zone))
}
const filesByZone = new WeakMap<readonly ZoneFile[], Map<Name, ZoneFile>>()

/** The folder of the workspace that `from` is in, or undefined. */
export function findWorkspace(from: string): string | undefined {
  for (let folder = resolve(from); ; folder = dirname(folder)) {
    if (existsSync(join(folder, CONFIG_FILE))) return folder
    if (dirname(folder) === folder) return undefined
  }
}

/** Of which view the zones are wanted. */
export interface Viewed {
  view?: string
  /** All views together, and files for one zone that are not told apart by a view, too. */
  allViews?: boolean
  /** Only files that belong to no view. */
  unviewed?: boolean
}

/**
 * Reads bramblefront.yaml and every zone file that it names; of the view that is stated, or of the only one that there is. Trouble where several views have
 * a zone and none is stated, and where two files are for one zone of a view.
 */
export async function openWorkspace(folder: string, options: Viewed = {}): Promise<Workspace> {
  const configFile = join(folder, CONFIG_FILE)
  const unfinished = unfinishedIn(folder)
  let text: string
  try {
    text = readFileSync(unfinished.at(configFile), 'utf8')
  } catch (error) {
    throw new Trouble(`cannot read ${shownPath(configFile)}: ${systemText(error)}`)
  }
  const { parseConfig } = await import('./config.ts')
  const config = parseConfig(text, shownPath(configFile))
  const { globSync } = await import('tinyglobby')
  const stated = new Map(
    config.zones.filter((entry) => typeof entry !== 'string').map((entry) => [resolve(folder, entry.file), entry]),
  )
  const paths = new Set<string>()
  for (const entry of config.zones) {
    if (typeof entry === 'string')
      for (const path of globSync(entry, { cwd: folder, absolute: true, dot: false }).sort()) paths.add(path)
    else paths.add(resolve(folder, entry.file))
  }
  for (const path of unfinished.journal?.zones ?? []) paths.add(path)
  const unnamed: string[] = []
  const index: ZoneIndex = paths.size < LEAST_FILES || unfinished.journal ? new Map() : readIndex(folder)
  for (const path of index.keys()) if (!paths.has(path)) index.delete(path)
  const all = [...paths].flatMap((path): ZoneFile[] => {
    const entry = stated.get(path)
    const read = onDisk(shownPath(path), unfinished.at(path))
    const indexed = paths.size < LEAST_FILES ? undefined : { path, stamp: stampOf(path) }
    const known = entry?.zone === undefined ? index.get(path) : undefined
    const zone =
      known?.zone && known.stamp === indexed?.stamp ? known.zone : nameOrNotice(read.file, read.octets, entry?.zone)
    if (!zone) {
      unnamed.push(read.file)
      return []
    }
    return [
      Object.assign(read, {
        zone,
        indexed,
        at: unfinished.journal && ((path: string) => unfinished.at(path)),
        complete: entry?.complete,
        audience: entry?.audience,
        signed: entry?.signed,
        view: entry?.view,
        sheet: entry?.sheet,
      }),
    ]
  })
  const files = options.allViews
    ? all
    : options.unviewed
      ? all.filter(({ view }) => view === undefined)
      : inView(all, options.view)
  const { vantages, servers, fronts, follows, exceptions } = config
  const { readKeys, readPolicies } = await import('./beside.ts')
  return {
    folder,
    files,
    index,
    unnamed,
    vantages,
    servers,
    stepDays: config.stepDays,
    sheets: config.sheets,
    retention: config.retention,
    deliveries: config.deliveries,
    around: {
      fronts,
      follows,
      exceptions,
      keys: readKeys(folder, shownPath, unfinished),
      policies: readPolicies(folder, shownPath, unfinished),
    },
  }
}

/** A zone file, whose octets are read when they are first looked at. */
function onDisk(file: string, path: string): Pick<ZoneFile, 'file' | 'octets'> {
  let read: Uint8Array | undefined
  return {
    file,
    get octets() {
      read ??= readFileOrTrouble(path)
      return read
    },
  }
}

/** The zone that a file is for; one of which that cannot be told is left out, and the others are not. */
function nameOrNotice(file: string, octets: Uint8Array, stated?: string): Name | undefined {
  const zone = zoneOf(file, octets, stated)
  if (typeof zone === 'string') return zone
  notices.add(`${zone.refused}; it was left out. Name its zone in ${CONFIG_FILE}: - {zone: ZONE, file: ${file}}`)
  return undefined
}

/** Whether the zones of bramblefront.yaml (its text) name a file, by its path from the workspace. */
export async function isNamed(text: string, path: string): Promise<boolean> {
  const { parseConfig } = await import('./config.ts')
  const { default: picomatch } = await import('picomatch')
  return parseConfig(text, CONFIG_FILE).zones.some((entry) =>
    typeof entry === 'string'
      ? picomatch(normalize(entry))(normalize(path))
      : normalize(entry.file) === normalize(path),
  )
}

/** What was left undone there; whoever reads is told of it. */
function unfinishedIn(place: string): Unfinished {
  const unfinished = new Unfinished(place)
  if (unfinished.warning) notices.add(unfinished.warning)
  return unfinished
}

/** What has the lock and the journal of a file: the workspace that it is in, else the file itself. */
export const rootOf = (file: string): string => findWorkspace(dirname(resolve(file))) ?? file

/** A path as it is shortest to read from where the program runs. */
export function shownPath(path: string): string {
  const here = process.cwd() + sep
  return path.startsWith(here) ? path.slice(here.length) : path
}

/** Bare files as zones that are kept together. With `zone`, there must be one file. */
export function bareFiles(files: string[], zone?: string): ZoneFile[] {
  if (zone !== undefined && files.length > 1) throw new Trouble('--zone names one zone: give one file with it')
  return files.map((file) => {
    const unfinished = unfinishedIn(rootOf(file))
    const octets = readFileOrTrouble(unfinished.at(file))
    return {
      zone: zoneNameFor(file, octets, zone),
      file,
      octets,
      at: unfinished.journal && ((path) => unfinished.at(path)),
    }
  })
}

/** Reads zone files, and what they include, into one sealed model. `onFile` is called after each file; `instead` holds other octets for some, by their paths. */
export function loadZones(
  files: readonly ZoneFile[],
  includeAnywhere = false,
  onFile?: () => void,
  instead?: ReadonlyMap<string, Uint8Array>,
): Zones {
  const octets = files.reduce((sum, file) => sum + file.octets.length, 0)
  const zones = new Zones(Math.ceil(octets / 32))
  for (const file of files) {
    readZone(
      zones,
      zones.addSource(
        zones.addZone(file.zone, file.file, traitsOf(file)),
        file.file,
        instead?.get(file.file) ?? file.octets,
      ),
      { include: includer(includeAnywhere, instead, file.at) },
    )
    onFile?.()
  }
  zones.seal()
  return zones
}

/**
 * The files that are kept together for each kind of asker: one list, or one for each view, of the files of that view and those without one whose zone is not given
 * in it; and one more without any view, where a file would be in none.
 */
export function viewsOf(files: readonly ZoneFile[]): ZoneFile[][] {
  const views = viewLabels(files).map((view) => ofView(files, view))
  return files.every((file) => views.some((view) => view.includes(file)))
    ? views
    : [...views, files.filter(({ view }) => view === undefined)]
}

/** The files of a view: its own, and those without one whose zone it does not have. */
const ofView = (files: readonly ZoneFile[], view: string): ZoneFile[] => {
  const own = new Set(files.filter((each) => each.view === view).map(({ zone }) => foldName(zone)))
  return files.filter((each) => (each.view === undefined ? !own.has(foldName(each.zone)) : each.view === view))
}

const viewLabels = (files: readonly ZoneFile[]): string[] => [
  ...new Set(files.flatMap(({ view }) => (view === undefined ? [] : [view]))),
]

/** The files of the stated view; without one, all, which must be of different zones. */
function inView(all: readonly ZoneFile[], view: string | undefined): ZoneFile[] {
  const labels = viewLabels(all)
  if (view !== undefined && !labels.includes(view))
    throw new Trouble(
      labels.length === 0
        ? `--view ${view}: no zone in ${CONFIG_FILE} has a view; add one: - {zone: ZONE, file: FILE, view: ${view}}`
        : `--view ${view}: no such view; ${nearest(view, labels, 'views')}`,
    )
  const files = view === undefined ? [...all] : ofView(all, view)
  const seen = new Map<string, ZoneFile>()
  for (const each of files) {
    const other = seen.get(foldName(each.zone))
    if (other && view === undefined && other.view !== each.view)
      throw new Trouble(
        `${bare(each.zone)} has several views (${viewLabels(all).join(', ')}): choose one, as in --view ${labels[0]}`,
      )
    if (other)
      throw new Trouble(
        `${other.file} and ${each.file} are both for the zone ${bare(each.zone)}; keep one of them, or name the file with --file`,
      )
    seen.set(foldName(each.zone), each)
  }
  return files
}

function traitsOf({ complete, audience, signed, view, sheet }: ZoneFile): ZoneTraits {
  return { complete, audience, signed, view, hosted: sheet !== undefined }
}

/** The kept zone with that name (a final dot may be missing), or trouble that lists those there are. */
export function zoneNamed(zones: Zones, name: string): Zone {
  const folded = foldName(name.endsWith('.') ? name : `${name}.`)
  const zone = zones.zones.find((each) => foldName(each.name) === folded)
  if (!zone)
    throw new Trouble(
      `${bare(name)} is not one of your zones; ${nearest(
        bare(folded),
        zones.zones.map((each) => bare(foldName(each.name))),
        'your zones',
      )}`,
    )
  return zone
}

/** A zone of the workspace with its past, for the commands that look back. */
import { existsSync } from 'node:fs'
import { basename, join } from 'node:path'
import { setsOf } from '../../core/change/difference.ts'
import { zoneDigest } from '../../core/change/digest.ts'
import { parseVantage } from '../../core/confirm/vantage.ts'
import { serialOf } from '../../core/file/serial.ts'
import { isLikeMoment, statedMoment } from '../../core/history/moment.ts'
import {
  type Entry,
  entriesOf,
  entryNamed,
  type Held,
  heldAt,
  heldBy,
  lastPublished,
} from '../../core/history/states.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { isRefused, type Refused } from '../../core/result.ts'
import { readFileOrTrouble, zoneOf } from '../../workspace/files.ts'
import { readLog } from '../../workspace/log.ts'
import { type KeptState, keptState } from '../../workspace/states.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, fileOf, loadZones, shownPath, type ZoneFile } from '../../workspace/workspace.ts'
import { now } from '../clock.ts'
import type { Chosen, SourceOptions } from './source.ts'

export interface Past {
  /** The workspace. */
  folder: string
  file: ZoneFile
  zones: Zones
  zone: Zone
  /** Of its data now. */
  digest: string
  /** Oldest first. */
  entries: Entry[]
}

/** `lines`: those of the log that may be the zone’s, where they were read before. */
export const pastOf = (
  folder: string,
  file: ZoneFile,
  zones: Zones,
  zone: Zone,
  lines: readonly unknown[] = readLog(folder, [zone.name]),
): Past => ({
  folder,
  file,
  zones,
  zone,
  digest: zoneDigest(zones, zone),
  entries: entriesOf(lines, zone.name, file.view),
})

/** The state that an entry’s backup holds. */
export const stateFrom = (past: Past, id: string, includeAnywhere?: boolean): KeptState =>
  stateOf(past, entryHeld(past, id), includeAnywhere)

function entryHeld(past: Past, id: string): Held | Refused {
  const entry = entryNamed(past.entries, id)
  if (!isRefused(entry)) return heldBy(entry)
  // It may be another zone’s.
  const others = entriesOf(readLog(past.folder))
  const other = entryNamed(others, id)
  if (isRefused(other) || past.entries.includes(other)) return entry
  const zones = [...new Set(others.filter((each) => each.id === other.id).map(({ zone }) => bare(zone)))]
  return { refused: `the entry ${id} is of ${zones.join(', ')}, not of this zone` }
}

/** The state at a moment as typed. */
export function stateAsOf(past: Past, option: string, text: string, includeAnywhere?: boolean): KeptState {
  const moment = statedMoment(text)
  if (moment === undefined)
    throw new Trouble(
      `${option} ${text} must be a time, as in 2026-11-20 or 2026-11-20T14:00 (UTC), or 2026-11-20T14:00+01:00`,
    )
  if (moment > now()) throw new Trouble(`${option} ${text} is in the future`)
  const held = heldAt(past.entries, moment, past.digest)
  if (held === 'present')
    return { sets: setsOf(past.zones, past.zone), serial: serialOf(past.zones, past.zone), octets: past.file.octets }
  return stateOf(past, held, includeAnywhere)
}

/** What all servers of the zone were last known to have; undefined where that is not known. */
export function statePublished(past: Past, includeAnywhere?: boolean): KeptState | undefined {
  const entry = lastPublished(past.entries)
  return entry && stateOf(past, heldBy(entry), includeAnywhere)
}

function stateOf(past: Past, held: Held | Refused, includeAnywhere?: boolean): KeptState {
  const state = isRefused(held) ? held : keptState(past.folder, past.file, held, includeAnywhere)
  if (isRefused(state)) throw new Trouble(`${bare(past.zone.name)}: ${state.refused}`)
  return state
}

export const WITH_HELP =
  'what to compare with: servers, ADDRESS[:PORT], a delivery, a zone file, published, an entry of the history, or a time (default: servers)'

/** What `--with` names: servers, which are asked, or a state. */
export type Other = 'servers' | { kind: 'file' | 'delivery' | 'published' | 'entry' | 'time'; text: string }

export function otherOf(text: string, { workspace }: Chosen): Other {
  if (text === 'servers' || parseVantage(text)) return 'servers'
  const delivery = workspace?.deliveries.find(({ label }) => label === text)
  if (delivery?.by === 'update') return 'servers'
  if (delivery) return { kind: 'delivery', text: delivery.folder }
  if (text !== 'published' && existsSync(text)) return { kind: 'file', text }
  const kind = text === 'published' ? text : isLikeMoment(text) ? 'time' : 'entry'
  if (kind === 'entry' && (!/^[\w-]{4,}$/.test(text) || !workspace))
    throw new Trouble(
      `--with ${text}: there is no such file; it must be servers, ADDRESS[:PORT], a delivery of bramblefront.yaml, a zone file, published, an entry of the history, or a time, as in 2026-11-20T14:00`,
    )
  if (!workspace) throw new Trouble(`--with ${text} needs a workspace: nothing is remembered of a bare file`)
  return { kind, text }
}

/** The state that it names, and what it is called. */
export function otherState(
  { zones, workspace }: Chosen,
  zone: Zone,
  { kind, text }: Exclude<Other, 'servers'>,
  { includeAnywhere }: SourceOptions,
): KeptState & { said: string } {
  if (kind === 'file' || kind === 'delivery') {
    const name = workspace && basename(fileOf(workspace, zone.name)!.file)
    const path = kind === 'file' ? text : join(text, name!)
    const there = loadZones(bareFiles([path], zone.name), includeAnywhere)
    // What is called as the zone’s own file is has no other name to go by: only its content can say that it is another zone’s.
    const own = zoneOf(basename(path) === name ? '' : path, readFileOrTrouble(path))
    if (typeof own === 'string' && foldName(own) !== foldName(zone.name))
      throw new Trouble(`--with ${path}: this file is of the zone ${bare(own)}, not of ${bare(zone.name)}`)
    const said = kind === 'file' ? text : shownPath(path)
    return { said, sets: setsOf(there, there.zones[0]!), serial: serialOf(there, there.zones[0]!) }
  }
  const past = pastOf(workspace!.folder, fileOf(workspace!, zone.name)!, zones, zone)
  if (kind === 'time') return { said: `the state at ${text}`, ...stateAsOf(past, '--with', text, includeAnywhere) }
  if (kind === 'entry') return { said: `the backup of the entry ${text}`, ...stateFrom(past, text, includeAnywhere) }
  const published = statePublished(past, includeAnywhere)
  if (published) return { said: 'what was last published', ...published }
  throw new Trouble(
    `it is not known what was last published of ${bare(zone.name)}: no confirmation has seen all of it at all of its servers yet. See what they have: bramblefront diff ${bare(zone.name)} --with servers`,
  )
}

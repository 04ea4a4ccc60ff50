/** How zones were: by the copies of their files that were kept. */
import { basename, join } from 'node:path'
import { type Sets, setKey, setsOf, soaOf } from '../core/change/difference.ts'
import { type DataEntry, isDataEntry, sideSet } from '../core/change/entry.ts'
import type { Earlier } from '../core/confirm/questions.ts'
import { serialOf } from '../core/file/serial.ts'
import type { Held } from '../core/history/states.ts'
import type { RecordSet, Zone, Zones } from '../core/model/zones.ts'
import { foldName } from '../core/names/name.ts'
import { parseType } from '../core/records/types.ts'
import { isRefused, type Refused } from '../core/result.ts'
import { backupFolder, type Copy, copiesIn, readCopy } from './backups.ts'
import { loadZones, type ZoneFile } from './workspace.ts'

/** So many copies are looked at, the newest first, and no more of them than have so many octets together (the newest always). */
const COPIES = 40
const OCTETS = 1 << 26

/** What is known of how a zone was. */
export interface History {
  /** Newest first. */
  states: Earlier[]
  /** Whether there are older ones that were not looked at, or cannot be read. */
  more: boolean
}

/** How the zone of a file was before its last changes. `folder` is where copies are kept. */
export function earlierStates(folder: string, file: ZoneFile, includeAnywhere = false): History {
  const copies = copiesIn(backupFolder(folder, file))
  const own = copies.filter(({ of }) => of === basename(file.file))
  const states: Earlier[] = []
  let octets = 0
  let more = false
  for (const copy of own) {
    octets += copy.octets
    if (states.length > 0 && (octets > OCTETS || states.length >= COPIES)) return { states, more: true }
    const held = readCopy(copy.path)
    if (isRefused(held)) {
      more = true
      continue
    }
    states.push({ until: copy.at, ...loaded(file, held, copies, copy.at, includeAnywhere) })
  }
  return { states, more }
}

/** What the name of a copy ends in that holds all of a zone in one piece, what it includes, too. */
export const IN_ONE_PIECE = '.whole'

/** A zone as its copy has it; of the files that it includes, as they were then, too: by the copy in one piece of that moment, or by their own. */
function loaded(
  file: ZoneFile,
  octets: Uint8Array,
  copies: readonly Copy[],
  at: number,
  includeAnywhere: boolean,
): { zones: Zones; zone: Zone } {
  const whole = copies.find((each) => each.at === at && each.of === basename(file.file) + IN_ONE_PIECE)
  const piece = whole && readCopy(whole.path)
  const then = { ...file, octets: piece && !isRefused(piece) ? piece : octets }
  let zones = loadZones([then], includeAnywhere)
  const included = zones.sources.slice(1).map((source) => source.file)
  const instead = new Map<string, Uint8Array>()
  for (const each of included) {
    // The oldest copy from then on: until that was kept, the file was as it is in there.
    const copy = copies.findLast(({ of, at: kept }) => of === basename(each) && kept >= at)
    const held = copy && readCopy(copy.path)
    if (held && !isRefused(held)) instead.set(each, held)
  }
  if (instead.size > 0) zones = loadZones([then], includeAnywhere, undefined, instead)
  return { zones, zone: zones.zones.find((each) => foldName(each.name) === foldName(file.zone))! }
}

/** A state of a zone. */
export interface KeptState {
  sets: Sets
  /** Undefined without an SOA record. */
  serial?: number
  soa?: RecordSet
  /** What the zone’s own file held, where it was all of the zone. */
  octets?: Uint8Array
}

/** The state that an entry of the log holds; or why it cannot be had. `folder`: the workspace. */
export function keptState(
  folder: string,
  file: ZoneFile,
  { entry, side }: Held,
  includeAnywhere = false,
): KeptState | Refused {
  const { came, cameSum } = entry as DataEntry
  const [copy, sum] =
    side === 'came' && came !== undefined
      ? [came, cameSum]
      : entry.whole !== undefined
        ? [entry.whole, entry.wholeSum]
        : [entry.backup!, entry.sum]
  const octets = readCopy(join(folder, copy), sum, file.at)
  if (isRefused(octets)) return octets
  const copies = copiesIn(backupFolder(folder, file))
  const at = copies.find(({ path }) => path === join(folder, entry.backup!))?.at ?? Date.parse(entry.at) / 1000
  const { zones, zone } = loaded(file, octets, copies, at, includeAnywhere)
  const sets = setsOf(zones, zone)
  if (side !== 'after')
    return {
      sets,
      serial: serialOf(zones, zone),
      soa: soaOf(zones, zone),
      octets: zones.sources.length === 1 && entry.whole === undefined ? octets : undefined,
    }
  if (isDataEntry(entry))
    for (const { owner, type: word, after } of entry.sets) {
      const type = parseType(word)
      const set = type === undefined ? undefined : after ? sideSet(owner, type, after) : null
      if (type === undefined || set === undefined) return { refused: `the entry ${entry.id} of the log cannot be read` }
      if (set) sets.set(setKey(set), set)
      else sets.delete(setKey({ owner, type }))
    }
  return { sets, serial: entry.what === 'published' ? undefined : (entry.serial?.after ?? serialOf(zones, zone)) }
}

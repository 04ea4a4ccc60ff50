/**
 * The base of each delivery of each zone and view, as data of its own: `bases/LABEL/ZONE.base`, a zone file of what both sides last had, with what else
 * there is to know of it in a comment in front.
 */
import { join } from 'node:path'
import { type SetPreview, setJson } from '../core/change/change-set.ts'
import { setKey, setsOf, soaOf } from '../core/change/difference.ts'
import { type EntrySide, sideSet } from '../core/change/entry.ts'
import { digestOf } from '../core/confirm/history.ts'
import type { LogLine } from '../core/confirm/memory.ts'
import type { Earlier } from '../core/confirm/questions.ts'
import type { Entry } from '../core/history/states.ts'
import type { RecordSet } from '../core/model/zones.ts'
import { bare, foldName, type Name } from '../core/names/name.ts'
import { octetsOf, textOf } from '../core/names/octets.ts'
import { type Base, broughtIn, type Present, type Sent, withSent } from '../core/publish/base.ts'
import { rdataText } from '../core/records/rdata.ts'
import { parseType, TYPE, typeText } from '../core/records/types.ts'
import { isRefused } from '../core/result.ts'
import { commit } from './commit.ts'
import { presentAt } from './files.ts'
import { keptState } from './states.ts'
import { Trouble } from './trouble.ts'
import { loadZones, shownPath, type ZoneFile } from './workspace.ts'

/** What else is known of a base. */
export interface BaseNotes {
  /** The newest entry of the log when it was written. */
  entry?: string
  /** What was sent and not read back yet, by which run; and the sums of files that were about to be put into place. */
  run?: string
  sent?: Sent[]
  sentFiles?: Record<string, string>
  first?: boolean
  /** The delivery when it was last seen to have all that is intended. */
  settled?: Settled
  /** By file: the sum of each delivered file, by its path in the folder. */
  files?: Record<string, string>
}

/** A delivery that has all that is intended: as long as its serial and the digest of the intended data are these, it has. */
export interface Settled {
  serial: number
  digest: string
  /** Whether all that is there was seen, and not just what is known here. */
  whole: boolean
  /** What others have there. */
  foreign: { owner: Name; type: number; was?: RecordSet; now?: RecordSet }[]
}

export interface StoredBase extends BaseNotes {
  base: Base
  /** The same as zones, for asking. */
  earlier: Earlier
  path: string
  octets: Uint8Array
}

/** Of which zone (and view), by which delivery. */
export type BaseOf = Pick<ZoneFile, 'zone' | 'view'> & { delivery: string }

const MARK = '; bramblefront '

/** Where a base is kept. `folder`: the workspace. Names of any kind become names of files, each its own. */
export function basePath(folder: string, { zone, view, delivery }: BaseOf): string {
  const safe = (text: string): string => encodeURIComponent(text).replaceAll('*', '%2A').replace(/^\./, '%2E')
  const name = `${safe(bare(foldName(zone)))}${view === undefined ? '' : `@${safe(view)}`}`
  return join(folder, 'bases', safe(delivery), `${name}.base`)
}

/** The base as it was last written; undefined where there is none. Trouble where it cannot be read: nothing is guessed in its place. `at` says where it is while a change is not finished. */
export function readBase(folder: string, of: BaseOf, at = (path: string) => path): StoredBase | undefined {
  const path = basePath(folder, of)
  const octets = presentAt(at(path))
  if (!octets) return undefined
  const zones = loadZones([{ zone: of.zone, file: path, octets }])
  const zone = zones.zones[0]!
  const notes = notesIn(octets)
  if (!notes || zones.sources.some(({ problems }) => problems.some(({ read }) => !read)))
    throw new Trouble(
      `${shownPath(path)}, which says what was last published, is damaged. Compare with the server (bramblefront diff ${bare(of.zone)}), then remove the file: the next publish is a first one, which removes nothing`,
    )
  const base = { sets: setsOf(zones, zone), soa: soaOf(zones, zone), first: notes.first }
  return { base, ...notes, earlier: { zones, zone, until: 0 }, path, octets }
}

type Side = EntrySide | null
interface NotesJson extends Omit<BaseNotes, 'sent' | 'settled'> {
  format: 1
  sent?: { owner: Name; type: string; after: Side }[]
  settled?: Omit<Settled, 'foreign'> & { foreign: { owner: Name; type: string; was: Side; now: Side }[] }
}

function notesIn(octets: Uint8Array): BaseNotes | undefined {
  const end = octets.indexOf(0x0a)
  const line = textOf(octets.subarray(0, end < 0 ? octets.length : end))
  if (!line.startsWith(MARK)) return undefined
  try {
    const { format, sent, settled, ...rest } = JSON.parse(line.slice(MARK.length)) as NotesJson
    if (format !== 1) return undefined
    const setOf = (owner: Name, word: string, side: Side): RecordSet | undefined =>
      side ? sideSet(owner, parseType(word)!, side) : undefined
    return {
      ...rest,
      sent: sent?.map(({ owner, type, after }) => ({
        owner,
        type: parseType(type)!,
        after: setOf(owner, type, after),
      })),
      settled: settled && {
        ...settled,
        foreign: settled.foreign.map(({ owner, type, was, now }) => ({
          owner,
          type: parseType(type)!,
          was: setOf(owner, type, was),
          now: setOf(owner, type, now),
        })),
      },
    }
  } catch {
    return undefined
  }
}

/** A base as its file has it. */
export function baseOctets({ sets, soa, first }: Base, { sent, settled, ...rest }: BaseNotes): Uint8Array {
  const about = ({ owner, type }: Pick<SetPreview, 'owner' | 'type'>) => ({
    owner: foldName(owner),
    type: typeText(type),
  })
  const notes: NotesJson = {
    format: 1,
    ...rest,
    ...(first ? { first } : {}),
    ...(sent ? { sent: sent.map((each) => ({ ...about(each), after: setJson(each.after) })) } : {}),
    ...(settled && {
      settled: {
        ...settled,
        foreign: settled.foreign.map((each) => ({ ...about(each), was: setJson(each.was), now: setJson(each.now) })),
      },
    }),
  }
  const lines = [soa, ...sets.values()].flatMap((set) => (set ? set.data.map((data) => lineOf(set, data)) : []))
  return octetsOf(`${MARK}${JSON.stringify(notes).replace(/[\u0080-\uffff]/g, escaped)}\n${lines.join('')}`)
}

const escaped = (sign: string): string => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`

const lineOf = ({ owner, type, ttl }: RecordSet, data: Uint8Array): string =>
  `${owner} ${ttl} IN ${typeText(type)} ${rdataText(type, data)}\n`

/** Writes a base, unless it is there as it is. */
export async function writeBase(
  folder: string,
  of: BaseOf,
  base: Base,
  notes: BaseNotes,
  { command, now }: { command: string; now: Date },
): Promise<void> {
  const beside = baseBeside(folder, of, base, notes)
  if (!beside) return
  await commit(
    { root: folder, backups: folder, logged: true },
    { zones: [], beside: [beside], command, now },
    async () => {
      throw new Trouble(`${bare(of.zone)} is being published to ${of.delivery} by another call: try again`)
    },
  )
}

/** The file of a base, to be written; undefined where it is there as it is. */
export function baseBeside(folder: string, of: BaseOf, base: Base, notes: BaseNotes) {
  const path = basePath(folder, of)
  const before = presentAt(path)
  const content = baseOctets(base, notes)
  return before && Buffer.compare(before, content) === 0 ? undefined : { path, content, before }
}

/** Who a base is asked for: a delivery, and where that goes (undefined by file). */
export interface Whose {
  delivery: string
  endpoint?: string
}

/**
 * What a delivery and the workspace last both had, by all that is known: the base that was written, what was sent since, states that were transferred from that
 * very server or seen at all servers since; without any, a state that was brought in from elsewhere. Undefined where nothing is known.
 */
export function baseAt(
  folder: string,
  file: ZoneFile,
  entries: readonly Entry[],
  { delivery, endpoint }: Whose,
  stored: StoredBase | undefined,
  present: Present,
  includeAnywhere?: boolean,
): Base | undefined {
  let base = stored && withSent(stored.base, acknowledged(stored, entries), present)
  let elsewhere: Base | undefined
  for (const entry of entriesSince(entries, stored?.entry)) {
    if (entry.what === 'confirmation' || typeof entry.backup !== 'string') continue
    const isAdopted = entry.what === 'adopted'
    const isFromThere = isAdopted && entry.from !== undefined && entry.from === endpoint
    const isSeen = entry.what === 'published' && entry.by === 'seen' && endpoint !== undefined
    const isOwn = !stored && entry.what === 'published' && entry.delivery === delivery
    if (!isFromThere && !isSeen && !isOwn && (!isAdopted || base)) continue
    const state = keptState(folder, file, { entry, side: isAdopted ? 'came' : 'copy' }, includeAnywhere)
    if (isRefused(state)) throw new Trouble(`${bare(file.zone)}: ${state.refused}`)
    // Also by asking: a name that nobody asked for is not in the zone any more, and must not become a removal.
    if (isFromThere) base = state
    else if (isAdopted) elsewhere = state
    else
      base = { sets: new Map([...(base?.sets ?? []), ...state.sets]), soa: state.soa ?? base?.soa, first: base?.first }
  }
  return base ?? (elsewhere && broughtIn(elsewhere, present, setKey({ owner: file.zone, type: TYPE.NS })))
}

/** Entries behind one; all of them where it is not there. */
const entriesSince = (entries: readonly Entry[], id: string | undefined): readonly Entry[] =>
  entries.slice(id === undefined ? 0 : entries.findLastIndex((each) => each.id === id) + 1)

/** What was sent, with what the log says was acknowledged. */
function acknowledged({ sent = [], run }: BaseNotes, entries: readonly Entry[]): Sent[] {
  const lines = entries.filter(
    (each): each is Extract<LogLine, { what: 'published' }> =>
      each.what === 'published' && each.run !== undefined && each.run === run,
  )
  const said = new Set(lines.flatMap(({ sets }) => sets.map((each) => each.join(' '))))
  return sent.map((each) => ({ ...each, acknowledged: said.has(stateOf(each).join(' ')) }))
}

/** A set as the log has it of what was published: owner, type, and a digest of its data with its TTL. */
export const stateOf = ({
  owner,
  type,
  after,
}: Pick<SetPreview, 'owner' | 'type' | 'after'>): [Name, string, string] => [
  foldName(owner),
  typeText(type),
  `${digestOf({ owner, type }, after ?? {})}/${after?.ttl ?? 0}`,
]

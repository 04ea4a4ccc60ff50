/** Which state a zone was in at some moment, by the lines of its log and the copies that they name. */
import { type DataEntry, isDataEntry } from '../change/entry.ts'
import { isLogLine, type LogLine } from '../confirm/memory.ts'
import { foldName, type Name } from '../names/name.ts'
import type { Refused } from '../result.ts'

export type Entry = DataEntry | LogLine
export type Published = Extract<LogLine, { what: 'published' }>

/** A state of a zone that can be had: what the copy of an entry holds, or what became of that by the entry’s sets. */
export interface Held {
  entry: DataEntry | Published
  /** `came`: all that was brought in, also what was left out of it. */
  side: 'copy' | 'after' | 'came'
}

/** The lines of a log that speak of a zone (of one view of it), oldest first. */
export const entriesOf = (lines: Iterable<unknown>, zone?: Name, view?: string): Entry[] => {
  const found: Entry[] = []
  for (const line of lines)
    if (
      (isDataEntry(line) || isLogLine(line)) &&
      (zone === undefined || foldName(line.zone) === foldName(zone)) &&
      (view === undefined || line.view === undefined || line.view === view)
    )
      found.push(line)
  return found
}

const secondsOf = ({ at }: Entry): number => Date.parse(at) / 1000

/** The newest of the entries that gave the zone its data. */
export const newest = (entries: readonly Entry[]): DataEntry | undefined =>
  entries.findLast((each) => isDataEntry(each))

/** What all servers of the zone were last known to have. */
export const lastPublished = (entries: readonly Entry[]): Published | undefined =>
  entries.findLast((each): each is Published => each.what === 'published' && typeof each.backup === 'string')

/** What was last delivered by one delivery. */
const lastDelivered = (entries: readonly Entry[], delivery: string): Published | undefined =>
  entries.findLast(
    (each): each is Published =>
      each.what === 'published' && each.delivery === delivery && typeof each.backup === 'string',
  )

/** The copies that must be kept: by the newest entry, edits by hand are found out; what was published and brought in last is what others’ changes are told by. */
export function neededCopies(entries: readonly Entry[]): string[] {
  const deliveries = new Set(entries.flatMap((each) => (each.what === 'published' ? (each.delivery ?? []) : [])))
  const delivered = [...deliveries].map((delivery) => lastDelivered(entries, delivery))
  const adopted = entries.findLast((each) => each.what === 'adopted')
  return [newest(entries), lastPublished(entries), adopted, ...delivered].flatMap((entry) => {
    if (!entry || entry.what === 'confirmation') return []
    const { came } = entry as DataEntry
    return [entry.backup, entry.whole, came].flatMap((copy) => (typeof copy === 'string' ? [copy] : []))
  })
}

/** The entry that is meant: by its id, or the last part of it. */
export function entryNamed(entries: readonly Entry[], text: string): Entry | Refused {
  const found = entries.filter(({ id }) => id !== undefined && (id === text || (text.length >= 4 && id.endsWith(text))))
  const ids = new Set(found.map(({ id }) => id))
  if (ids.size === 1) return found.at(-1)!
  return {
    refused:
      ids.size === 0
        ? `there is no entry ${text} of this zone; its entries: bramblefront history ZONE`
        : `several entries end in ${text}: ${[...ids].join(', ')}`,
  }
}

/** What the copy of an entry holds. */
export function heldBy(entry: Entry): Held | Refused {
  if (entry.what !== 'confirmation' && typeof entry.backup === 'string') return { entry, side: 'copy' }
  return {
    refused:
      entry.what === 'confirmation'
        ? `the entry ${entry.id} is a confirmation: it changed nothing, and no backup was kept of it`
        : `no backup was kept with the entry ${entry.id}`,
  }
}

/**
 * The state at a moment (seconds since 1970); `present` where nothing was changed since. What was edited by hand counts from when it was noticed.
 * `digest` is that of the zone’s data now.
 */
export function heldAt(entries: readonly Entry[], time: number, digest: string): Held | 'present' | Refused {
  const data = entries.filter((each) => isDataEntry(each))
  const index = data.findLastIndex((each) => secondsOf(each) <= time)
  const [last, next] = [data[index], data[index + 1]]
  if (last) {
    if (!next && last.digest === digest) return 'present'
    return afterEntry(last, next)
  }
  if (!next) return { refused: 'nothing is known of its history: no command has changed it yet' }
  const what = next.what === 'adopted' ? 'it was brought into the workspace' : 'its history begins'
  const before = next.what === 'change' || next.what === 'restored'
  return {
    refused: `what it was before ${next.at} is not known: ${what} then${before && next.id !== undefined ? `. What stood there right before that entry: --from ${next.id}` : ''}`,
  }
}

/** The state that an entry left behind. */
export function afterEntry(entry: DataEntry, next?: DataEntry): Held | Refused {
  const keepsBefore = entry.what === 'change' || entry.what === 'restored'
  if (!keepsBefore) return heldBy(entry)
  const follows = next && (next.what === 'change' || next.what === 'restored') && next.was === entry.digest
  if (follows) return heldBy(next)
  return typeof entry.backup === 'string' ? { entry, side: 'after' } : heldBy(entry)
}

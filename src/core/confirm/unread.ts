/** What a zone's file has that could not be read: nobody can confirm it. */
import { LineIndex } from '../file/places.ts'
import type { Zone, Zones } from '../model/zones.ts'
import type { Name } from '../names/name.ts'
import { textOf } from '../names/octets.ts'

/** An entry that is not among the records, with its place; lines and columns from one. */
export interface Unread {
  file: string
  line: number
  column: number
  /** The line as it stands there. */
  text: string
  why: string
  /** Its owner and type, where those could be read. */
  owner?: Name
  type?: number
}

/** The entries of zones’ files, and of those that they include, that could not be read, by zone. What stands outside the zone is none of it. */
export function unreadIn(zones: Zones): Map<Zone, Unread[]> {
  const unread = new Map<Zone, Unread[]>()
  for (const { file, octets, problems, zone: of } of zones.sources) {
    const left = problems.filter(({ read, kind }) => !read && kind !== 'out-of-zone')
    if (left.length === 0) continue
    const index = new LineIndex(octets)
    const zone = zones.zones[of]!
    const entries = left.map(({ start, message, owner, type }): Unread => {
      const end = octets.indexOf(0x0a, start)
      const from = octets.lastIndexOf(0x0a, Math.max(0, start - 1)) + 1
      const text = textOf(octets.subarray(from, end < 0 ? octets.length : end)).trim()
      const whose = owner === undefined ? {} : { owner: zones.tree.text(owner), type }
      return { file, ...index.place(start), text, why: message, ...whose }
    })
    unread.set(zone, [...(unread.get(zone) ?? []), ...entries])
  }
  return unread
}

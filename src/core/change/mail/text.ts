/** Texts of mail at a name: of each kind one, the others stay. */

import type { SetChange } from '../../file/edit/changes.ts'
import { setAt, type Zone, type Zones } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import type { Rdata } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { joined, textData } from '../../records/views.ts'

export interface MailChange {
  changes: SetChange[]
  /** What to know of it: why it is so, what it costs, what comes next. */
  notes: string[]
}

/** The texts at a name that are of a kind. */
export function textsAt(zones: Zones, zone: Zone, owner: Name, isOne: (text: string) => boolean): string[] {
  return (setAt(zones, zone, owner, TYPE.TXT)?.data ?? []).map(joined).filter(isOne)
}

/** The change that makes a text the only one of its kind at a name (undefined: none is left); other texts stay. */
export function textChange(
  zones: Zones,
  zone: Zone,
  owner: Name,
  isOne: (text: string) => boolean,
  text: string | undefined,
  ttl?: number,
): SetChange {
  const present = setAt(zones, zone, owner, TYPE.TXT)?.data ?? []
  let placed = text === undefined
  const data: Rdata[] = []
  for (const each of present) {
    if (!isOne(joined(each))) data.push(each)
    else if (!placed) {
      // What says so already keeps its strings as they are parted.
      data.push(joined(each) === text ? each : textData(text!))
      placed = true
    }
  }
  if (!placed) data.push(textData(text!))
  return { owner, type: TYPE.TXT, ttl, data }
}

/** Edits of zone files as the program makes them: what is new stands with what serves the same purpose. */

import type { Edited, SetChange } from '../file/edit/changes.ts'
import {
  type EditOptions,
  editKept as editKeptIn,
  editZone as editZoneIn,
  type KeptEditOptions,
} from '../file/edit/edit.ts'
import type { Zone, Zones } from '../model/zones.ts'
import type { Name } from '../names/name.ts'
import type { Refused } from '../result.ts'
import { purposeOf } from '../view/purpose.ts'

/** `editZone` of the file layer, with purposes. */
export const editZone = (
  octets: Uint8Array,
  zoneName: Name,
  changes: SetChange[],
  options: EditOptions = {},
): Edited | Refused => editZoneIn(octets, zoneName, changes, { alike: purposeOf, ...options })

/** `editKept` of the file layer, with purposes. */
export const editKept = (
  zones: Zones,
  zone: Zone,
  changes: SetChange[],
  options: KeptEditOptions = {},
): Edited | Refused => editKeptIn(zones, zone, changes, { alike: purposeOf, ...options })

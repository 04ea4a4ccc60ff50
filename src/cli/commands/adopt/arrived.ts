/** A zone that comes in, from wherever: as it would be kept. */
import { zoneInForm } from '../../../core/file/forms.ts'
import type { Zones } from '../../../core/model/zones.ts'
import type { Name } from '../../../core/names/name.ts'
import { octetsOf } from '../../../core/names/octets.ts'
import { loadZones, type ZoneFile } from '../../../workspace/workspace.ts'

export interface Arrived {
  /** Where it comes from, for people. */
  given: string
  by: 'file' | 'table' | 'transfer' | 'asking'
  file: ZoneFile
  zones: Zones
  /** The server that it comes from, as deliveries go by it. */
  from?: string
  /** All of it as it came, where something was left out: then that is kept as a backup. */
  whole?: Uint8Array
  /** What bramblefront.yaml is to say of the zone. */
  traits: Record<string, string | boolean>
  complete: boolean
  /** For people, whole sentences. */
  notes: string[]
  /** By asking: how many names were asked for, and those that nobody answered for. */
  asked?: number
  unknown?: Name[]
}

/** A tidy zone file of a zone (sealed) whose records came without one; the two are the same data, record for record. */
export function tidied(zones: Zones, zone: Name, file: string): { file: ZoneFile; zones: Zones } {
  const octets = octetsOf([...zoneInForm(zones, zones.zones[0]!, 'zone')].join(''))
  const tidy: ZoneFile = { zone, file, octets }
  const again = loadZones([tidy])
  const isWhole = zones.sources.every(({ problems }) => problems.every(({ read }) => read))
  if (!isWhole || !isSame(canonical(zones), canonical(again)))
    throw new Error(`the zone file made for ${zone} does not read as what came`)
  return { file: tidy, zones: again }
}

const canonical = (zones: Zones): Generator<string> => zoneInForm(zones, zones.zones[0]!, 'canonical')

function isSame(a: Generator<string>, b: Generator<string>): boolean {
  for (;;) {
    const [one, other] = [a.next(), b.next()]
    if (one.done || other.done) return one.done === other.done
    if (one.value !== other.value) return false
  }
}

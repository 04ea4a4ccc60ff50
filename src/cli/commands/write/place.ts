/** What all that writes has in common: its options, the zones, the name that is meant in one of them, a TTL. */

import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { isAtOrBelow, type Name } from '../../../core/names/name.ts'
import { octetsOf } from '../../../core/names/octets.ts'
import { MAX_TTL, parseTtl } from '../../../core/records/ttl.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones } from '../../../workspace/workspace.ts'
import { changeOptions } from '../../options.ts'
import { type ChangeOptions, type Target, targetOf, zoneFor } from '../change/target.ts'

/** The options of all that writes for mail. */
export interface Common extends ChangeOptions {
  ttl?: string
}

export interface Place {
  target: Target
  loaded: Zones
  zone: Zone
  name: Name
}

/** The zones, and the name that is meant in one of them. */
export async function placeOf(typed: string, options: ChangeOptions): Promise<Place> {
  const target = await targetOf(options)
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = zoneFor(typed, loaded, options)
  const name = orTrouble(typedName(typed, zone, loaded.zones))
  if (!isAtOrBelow(name, zone.name)) throw new Trouble(`${name} is not in the zone ${zone.name}`)
  return { target, loaded, zone, name }
}

/** `--ttl` in seconds. */
export function ttlOf(options: { ttl?: string }): number | undefined {
  if (options.ttl === undefined) return undefined
  const octets = octetsOf(options.ttl)
  const ttl = parseTtl(octets, 0, octets.length)
  if (ttl < 0 || ttl > MAX_TTL)
    throw new Trouble(`--ttl ${options.ttl} must be a time in seconds up to ${MAX_TTL}, or with units as in 1h30m`)
  return ttl
}

/** The options of all that writes for mail, with the domain as first argument, and an example of a call. */
export function mailOptions(command: Command, example: string): Command {
  return changeOptions(command.argument('<name>', 'the domain; @ for the zone apex'))
    .option('--ttl <time>', 'TTL, in seconds or with units as in 1h30m')
    .addHelpText('after', exampleOf(command, example))
}

/** What a kind of record set may be called with, as help shows it. */
export const exampleOf = (command: Command, example: string): string =>
  `\nExample:\n  bramblefront write ${command.name()} ${example}\n`

/** What all that writes has in common: its options, the zones, the name that is meant in one of them, a TTL. */

import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName, isAtOrBelow, type Name } from '../../../core/names/name.ts'
import { MAX_TTL, typedTtl } from '../../../core/records/ttl.ts'
import { notices, orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones } from '../../../workspace/workspace.ts'
import { changeOptions } from '../../options.ts'
import { type ChangeOptions, type Target, targetNamed, zoneFor } from '../change/target.ts'

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

/** The zones, and the name that is meant in one of them; `prefix` are the labels in front of the domain where the record stands, which may be typed, too. */
export const placeOf = async (typed: string, options: ChangeOptions, prefix?: string): Promise<Place> =>
  (await placesOf([typed], options, prefix))[0]!

/** The same for several names, in zones that are read once. */
export async function placesOf(typed: readonly string[], options: ChangeOptions, prefix?: string): Promise<Place[]> {
  const target = await targetNamed(options)
  const loaded = loadZones(target.files, options.includeAnywhere)
  const places: Place[] = []
  for (const each of typed) {
    const zone = await zoneFor(each, loaded, options, target.known)
    const name = withoutPrefix(orTrouble(typedName(each, zone, loaded.zones)), prefix)
    if (!isAtOrBelow(name, zone.name)) throw new Trouble(`${name} is not in the zone ${zone.name}`)
    places.push({ target, loaded, zone, name })
  }
  return places
}

/** The domain itself, where the name of the record was typed; that is said. */
function withoutPrefix(name: Name, prefix: string | undefined): Name {
  if (prefix === undefined || !foldName(name).startsWith(`${prefix}.`)) return name
  const domain = name.slice(prefix.length + 1)
  notices.add(`${bare(name)} was read as the domain ${bare(domain)}: the record’s own name is added by itself.`)
  return domain
}

/** `--ttl` in seconds. */
export function ttlOf(options: { ttl?: string }): number | undefined {
  if (options.ttl === undefined) return undefined
  const ttl = typedTtl(options.ttl)
  if (ttl < 0 || ttl > MAX_TTL)
    throw new Trouble(
      `--ttl ${options.ttl} must be a time in seconds up to ${MAX_TTL}, or with units as in 1h30m or 5min`,
    )
  return ttl
}

/** The options of all that writes for mail, with the domain as first argument, and an example of a call. */
export function mailOptions(command: Command, example: string, several = false): Command {
  const argument = several
    ? command.argument('<names...>', 'the domains')
    : command.argument('<name>', 'the domain; @ for the zone apex')
  return changeOptions(argument)
    .option('--ttl <time>', 'TTL, in seconds or with units as in 1h30m')
    .addHelpText('after', exampleOf(command, example))
}

/** What a kind of record set may be called with, as help shows it. */
export const exampleOf = (command: Command, example: string): string =>
  `\nExample:\n  bramblefront write ${command.name()} ${example}\n`

/** Zone files on disk: reading them and what they include, and which zones they are for. */

import { existsSync, readFileSync, realpathSync, statSync } from 'node:fs'
import { basename, dirname, isAbsolute, join, sep } from 'node:path'
import type { Included } from '../core/file/reading.ts'
import { zoneNameClues } from '../core/file/zone-name.ts'
import { toAsciiName } from '../core/names/idna.ts'
import { bare, foldName, isAtOrBelow, type Name, toName } from '../core/names/name.ts'
import type { Refused } from '../core/result.ts'
import { systemText, Trouble } from './trouble.ts'

/** What is read as the person who calls gives it, and may be a pipe: `<(COMMAND)`, standard input. */
const HANDED = /^\/(?:dev\/(?:fd\/|stdin$)|proc\/self\/fd\/)/

/**
 * A zone file's octets. Node itself refuses files of 2 GiB and more, and places in a file are kept on 32 bits.
 * Pipes and devices, which may never end, are trouble, unless they are handed over by the call.
 */
export function readFileOrTrouble(file: string): Uint8Array {
  try {
    const found = statSync(file)
    if (!found.isFile() && !found.isDirectory() && !(HANDED.test(file) && found.isFIFO()))
      throw new Trouble(`cannot read ${file}: it is not a regular file (a pipe, a socket or a device)`)
    return readFileSync(file)
  } catch (error) {
    throw error instanceof Trouble ? error : new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
}

/** What is in a file; undefined where there is none. */
export const presentAt = (path: string): Uint8Array | undefined =>
  existsSync(path) ? readFileOrTrouble(path) : undefined

/**
 * Reads the files that `$INCLUDE` names, relative to the folder of the file that includes them. They must lie in that folder or below it, unless `anywhere`:
 * a zone file that was handed over shall not read what is not its own. `instead` holds other octets for some; `at` says where a path is to be read.
 */
export function includer(
  anywhere: boolean,
  instead?: ReadonlyMap<string, Uint8Array>,
  at = (path: string): string => path,
): (name: string, from: string) => Included {
  return (name, from) => {
    const folder = dirname(from)
    const path = isAbsolute(name) ? name : join(folder, name)
    try {
      const real = realpathSync(at(path))
      if (!anywhere && !real.startsWith(realpathSync(folder) + sep))
        return { failed: 'it is outside the folder of the including file (--include-anywhere allows that)' }
      if (statSync(real).isDirectory()) return { failed: systemText({ code: 'EISDIR' }) }
      return { file: path, octets: instead?.get(path) ?? readFileOrTrouble(at(path)) }
    } catch (error) {
      return { failed: error instanceof Trouble ? error.message : systemText(error) }
    }
  }
}

/** The zone that a file’s name says it is for, or undefined. */
function zoneFromFileName(file: string): Name | undefined {
  const name = basename(file)
    .replace(/\.(zone|db|txt)$/i, '')
    .replace(/^db\./i, '')
  const ascii = toAsciiName(name)
  return name === '' || 'refused' in ascii ? undefined : toName(ascii.name)
}

/** A zone's name as typed, internationalised labels made A-labels. */
export function statedZone(stated: string): Name {
  const ascii = toAsciiName(stated)
  const name = 'refused' in ascii ? undefined : toName(ascii.name)
  if (!name)
    throw new Trouble(`“${stated}” is not a valid domain name${'refused' in ascii ? `: ${ascii.refused}` : ''}`)
  return name
}

/**
 * The zone that a bare file is for: what the caller states, else the SOA record's owner, else an absolute `$ORIGIN`, else the file's name.
 * Or why that cannot be told: these leave it open, or the file's name and its `$ORIGIN` say different things.
 */
export function zoneOf(file: string, octets: Uint8Array, stated?: string): Name | Refused {
  if (stated !== undefined) return statedZone(stated)
  const clues = zoneNameClues(octets)
  if (clues.soaOwner) return clues.soaOwner
  const fromName = zoneFromFileName(file)
  if (clues.origin) {
    if (
      fromName &&
      bare(fromName).includes('.') &&
      /\.zone$/i.test(file) &&
      !isAtOrBelow(clues.origin, fromName) &&
      foldName(fromName) !== foldName(clues.origin)
    )
      return { refused: `${file}: its name says ${bare(fromName)}, its $ORIGIN says ${bare(clues.origin)}` }
    return clues.origin
  }
  if (!fromName) return { refused: `${file}: nothing says which zone it is for` }
  if (!bare(fromName).includes('.'))
    return {
      refused: `${file}: nothing in it says which zone it is for, and its name gives “${bare(fromName)}”, a single label`,
    }
  return fromName
}

/** The same, for a file that the call names: trouble that asks for `--zone` where it cannot be told. */
export function zoneNameFor(file: string, octets: Uint8Array, stated?: string): Name {
  const zone = zoneOf(file, octets, stated)
  if (typeof zone === 'string') return zone
  throw new Trouble(`${zone.refused}; name it with --zone ZONE`)
}

/**
 * Names and values as people type them in commands: a name that ends in a kept zone's name is absolute, any other without its final dot is relative to the zone.
 */

import type { Zone, Zones } from '../model/zones.ts'
import { parseAddress } from '../names/address.ts'
import { toAsciiName } from '../names/idna.ts'
import { foldName, isAtOrBelow, labelsOf, type Name, nameToWire, toName, wireToName } from '../names/name.ts'
import { octetsOf, textOf } from '../names/octets.ts'
import { parseRdata, type Rdata } from '../records/rdata.ts'
import { scanEntry } from '../records/scan.ts'
import { TokenCursor } from '../records/tokens.ts'
import { rowOf, type TypeRow, typeText } from '../records/types.ts'
import { textData } from '../records/views.ts'
import type { Refused } from '../result.ts'
import { ownerAsTyped } from './as-typed.ts'

/** An owner or target as typed, made absolute in `zone`; `kept` are the kept zones. Internationalised labels become A-labels (RFC 5891). */
export function typedName(typed: string, zone: Zone, kept: readonly Zone[]): Name | Refused {
  if (typed === '@') return zone.name
  const ascii = toAsciiName(ownerAsTyped(typed))
  if ('refused' in ascii) return { refused: `${typed} is not a valid domain name: ${ascii.refused}` }
  const text = ascii.name
  const absolute = text.endsWith('.')
    ? toName(text)
    : kept.some((each) => isAtOrBelow(`${text}.`, each.name))
      ? toName(`${text}.`)
      : undefined
  if (absolute) return absolute
  const wire = nameToWire(text, zone.wire)
  if (typeof wire === 'string') return { refused: `${text} is not a valid domain name: ${wire.replaceAll('-', ' ')}` }
  return wireToName(wire)
}

/** A target as typed: refused where it was most likely meant to be absolute, unless `force`. */
export function typedTarget(typed: string, zone: Zone, zones: Zones, force: boolean): Name | Refused {
  const name = typedName(typed, zone, zones.zones)
  const mistake = typeof name !== 'string' || force ? undefined : likelyAbsolute(typed, name, zones)
  return mistake ? { refused: mistake } : name
}

/**
 * A record's data as typed for a type; names in it follow `typedName`. A target of several labels that would end up at a name that does not exist is refused unless `force`:
 * it was most likely meant to be absolute. The value of a type that holds texts alone is the text itself, unless the whole of it is strings in quotes as a zone file has them.
 */
export function typedData(type: number, text: string, zone: Zone, zones: Zones, force: boolean): Rdata | Refused {
  const row = rowOf(type)
  const octets = octetsOf(text)
  const cursor = new TokenCursor(octets)
  const scanned = scanEntry(octets, 0, cursor)
  const whole = !scanned.problem && scanned.end === octets.length
  if (
    row?.fields.length === 1 &&
    row.fields[0]!.kind.isText &&
    !(whole && isQuotedStrings(cursor)) &&
    !/^\s*\\#\s/.test(text)
  )
    return textData(text)
  if (whole && hasComment(cursor))
    return {
      refused: `${typeText(type)} ${text}: a semicolon outside quotes begins a comment, so the rest would be lost. Put the value in quotes`,
    }
  let plain = text
  if (row && whole && cursor.count > 0 && cursor.text(0) !== '\\#') {
    const names = namesAsMeant(row, cursor, zone, zones, force)
    if (typeof names !== 'string') return names
    plain = names
  }
  const parsed = parseRdata(type, plain, zone.wire)
  if ('wire' in parsed) return parsed.wire
  return {
    refused: `${typeText(type)} ${text}: ${parsed.message} (expected ${parsed.wanted}${parsed.value ? `, not ${parsed.value}` : ''})`,
  }
}

/** The value with each of its names (one token a field, as far as the last name) made absolute; all else stays as it was typed. */
function namesAsMeant(row: TypeRow, cursor: TokenCursor, zone: Zone, zones: Zones, force: boolean): string | Refused {
  const { octets, starts, ends, quoted } = cursor
  let text = ''
  let at = 0
  for (const [i, field] of row.fields.entries()) {
    // Of quotes around a name it is told when the value is read: they are for texts.
    if (!field.kind.isName || i >= cursor.count || quoted[i]) continue
    const token = textOf(octets.subarray(starts[i], ends[i]))
    if (token === '.' || parseAddress(token.replace(/\.$/, ''))) continue
    const name = typedName(token, zone, zones.zones)
    // So it is of what is wrong with a name, with the type; but not of letters beyond ASCII, which would be taken as octets.
    if (typeof name !== 'string') {
      if (/[^\0-\x7f]/.test(token)) return name
      continue
    }
    const mistake = force ? undefined : likelyAbsolute(token, name, zones)
    if (mistake) return { refused: mistake }
    text += textOf(octets.subarray(at, starts[i])) + name
    at = ends[i]!
  }
  return text + textOf(octets.subarray(at))
}

/** Whether all of what was scanned is strings in quotes, with nothing but blanks and parentheses around them. */
function isQuotedStrings(cursor: TokenCursor): boolean {
  for (let token = 0; token < cursor.count; token++) if (!cursor.quoted[token]) return false
  return cursor.count > 0 && !hasComment(cursor)
}

/** Whether a comment stands before, between or behind the tokens. */
function hasComment({ octets, starts, ends, quoted, count }: TokenCursor): boolean {
  let at = 0
  for (let token = 0; token <= count; token++) {
    const next = token < count ? starts[token]! - quoted[token]! : octets.length
    if (octets.subarray(at, next).includes(SEMICOLON)) return true
    if (token < count) at = ends[token]! + quoted[token]!
  }
  return false
}
const SEMICOLON = 0x3b

function likelyAbsolute(typed: string, name: Name, zones: Zones): string | undefined {
  if (typed.endsWith('.') || labelsOf(typed).length < 2 || foldName(name) === foldName(`${typed}.`)) return undefined
  const id = zones.tree.findWire(nameToWire(name) as Uint8Array)
  if (id >= 0 && zones.exists(id)) return undefined
  return `${typed} has no final dot and is not in your zones, so it would be read as ${name}, which does not exist. Write “${typed}.” for the name outside your zones, or “${name}” if you mean that`
}

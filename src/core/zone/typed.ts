/**
 * Names and values as people type them in commands: a name that ends in a kept zone's name is absolute, any other without its final dot is relative to the zone.
 */

import { parseAddress } from '../names/address.ts'
import { toAsciiName } from '../names/idna.ts'
import { foldName, isAtOrBelow, labelsOf, type Name, nameToWire, toName, wireToName } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { MAX_STRING } from '../records/fields.ts'
import { parseRdata, type Rdata } from '../records/rdata.ts'
import { rowOf, TYPE, typeText } from '../records/types.ts'
import type { Zone, Zones } from './zones.ts'

/** What is wrong with what was typed, in one sentence that says what would be right. */
export interface Mistyped {
  mistyped: string
}

/** An owner or target as typed, made absolute in `zone`; `kept` are the kept zones. Internationalised labels become A-labels (RFC 5891). */
export function typedName(typed: string, zone: Zone, kept: readonly Zone[]): Name | Mistyped {
  if (typed === '@') return zone.name
  const ascii = toAsciiName(typed)
  if ('refused' in ascii) return { mistyped: `${typed} is no domain name: ${ascii.refused}` }
  const text = ascii.name
  const absolute = text.endsWith('.') ? toName(text) : kept.some((each) => isAtOrBelow(`${text}.`, each.name)) ? toName(`${text}.`) : undefined
  if (absolute) return absolute
  const wire = nameToWire(text, zone.wire)
  if (typeof wire === 'string') return { mistyped: `${text} is no domain name: ${wire.replaceAll('-', ' ')}` }
  return wireToName(wire)
}

/**
 * A record's data as typed for a type; names in it follow `typedName`. A target of several labels that would end up at a name that does not exist is refused unless `anyway`:
 * it was most likely meant to be absolute. A TXT value is the text itself, unless it is given in quotes as a zone file has it.
 */
export function typedData(type: number, text: string, zone: Zone, zones: Zones, anyway: boolean): Rdata | Mistyped {
  if (type === TYPE.TXT && !/^\s*(".*"|\(.*\))\s*$/s.test(text)) return textData(text)
  const row = rowOf(type)
  const tokens = text.trim().split(/\s+/)
  if (row && !text.includes('\\#'))
    for (const [i, field] of row.fields.entries()) {
      // Of quotes around a name it is told below that they are for texts.
      if (!field.kind.isName || tokens[i] === undefined || tokens[i] === '.' || /^".*"$/.test(tokens[i])) continue
      if (parseAddress(tokens[i].replace(/\.$/, ''))) continue
      const name = typedName(tokens[i], zone, zones.zones)
      // What is wrong with it is told below, with the type; but not with letters beyond ASCII, which would be taken as octets.
      if (typeof name !== 'string') {
        if (/[^\0-\x7f]/.test(tokens[i])) return name
        continue
      }
      const mistake = anyway ? undefined : likelyAbsolute(tokens[i], name, zones)
      if (mistake) return { mistyped: mistake }
      tokens[i] = name
    }
  const parsed = parseRdata(type, row?.fields.some((field) => field.kind.isName) ? tokens.join(' ') : text, zone.wire)
  if ('wire' in parsed) return parsed.wire
  return { mistyped: `${typeText(type)} ${text}: ${parsed.message}${parsed.value ? ` (here: ${parsed.value})` : ''}; right would be: ${parsed.wanted}` }
}

function likelyAbsolute(typed: string, name: Name, zones: Zones): string | undefined {
  if (typed.endsWith('.') || labelsOf(typed).length < 2 || foldName(name) === foldName(`${typed}.`)) return undefined
  const id = zones.tree.findWire(nameToWire(name) as Uint8Array)
  if (id >= 0 && zones.exists(id)) return undefined
  return `${typed} has no final dot and is in no kept zone, so it would mean ${name}, which does not exist. Write “${typed}.” for the name outside, or “${name}” if that is meant`
}

/** A text as one or more character-strings of at most 255 octets. */
export function textData(text: string): Rdata {
  const octets = octetsOf(text)
  const count = Math.max(1, Math.ceil(octets.length / MAX_STRING))
  const data = new Uint8Array(octets.length + count)
  for (let i = 0; i < count; i++) {
    const part = octets.subarray(i * MAX_STRING, (i + 1) * MAX_STRING)
    data[i * (MAX_STRING + 1)] = part.length
    data.set(part, i * (MAX_STRING + 1) + 1)
  }
  return data
}

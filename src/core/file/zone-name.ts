/** Finds out for which zone a file is, before it is read. */
import { readLabels, wireToName } from '../names/name.ts'
import { OctetSink } from '../names/octets.ts'
import { sameMnemonic } from '../records/mnemonics.ts'
import { scanEntry } from '../records/scan.ts'
import { TokenCursor } from '../records/tokens.ts'
import { parseClass } from '../records/types.ts'
import { beginsWithMark, MARK } from './byte-order-mark.ts'

const DOLLAR = 0x24

/** What a file itself says about the zone that it is for. */
export interface ZoneNameClues {
  /** The owner of the SOA record, where it can be told from the file alone. */
  soaOwner?: string
  /** The first absolute `$ORIGIN`. */
  origin?: string
}

/** Looks for the SOA record and `$ORIGIN` without a zone name to start from. Stops at the SOA record. */
export function zoneNameClues(octets: Uint8Array): ZoneNameClues {
  const cursor = new TokenCursor(octets)
  const out = new OctetSink(512)
  const clues: ZoneNameClues = {}
  let origin: Uint8Array | undefined
  let owner: Uint8Array | undefined
  let at = beginsWithMark(octets) ? MARK : 0
  const complete = (token: number): Uint8Array | undefined => {
    const start = cursor.starts[token]!
    const end = cursor.ends[token]!
    if (end - start === 1 && octets[start] === 0x40) return origin
    out.length = 0
    const absolute = readLabels(octets, start, end, out)
    if (typeof absolute === 'string' || (!absolute && !origin)) return undefined
    if (absolute) out.u8(0)
    else out.put(origin!)
    return out.length > 255 ? undefined : out.taken()
  }
  while (at < octets.length) {
    const start = at
    at = scanEntry(octets, at, cursor).end
    if (cursor.count === 0) continue
    if (
      octets[cursor.starts[0]!] === DOLLAR &&
      cursor.count > 1 &&
      sameMnemonic('$ORIGIN', octets, cursor.starts[0]!, cursor.ends[0]!)
    ) {
      origin = complete(1)
      if (origin && clues.origin === undefined) clues.origin = wireToName(origin)
      continue
    }
    if (octets[start] !== 0x20 && octets[start] !== 0x09) owner = complete(0)
    for (
      let token = octets[start] === 0x20 || octets[start] === 0x09 ? 0 : 1;
      token < Math.min(cursor.count, 4);
      token++
    ) {
      if (sameMnemonic('SOA', octets, cursor.starts[token]!, cursor.ends[token]!)) {
        if (owner !== undefined) clues.soaOwner = wireToName(owner)
        return clues
      }
      const first = octets[cursor.starts[token]!]!
      if (
        (first < 0x30 || first > 0x39) &&
        !sameMnemonic('IN', octets, cursor.starts[token]!, cursor.ends[token]!) &&
        parseClass(cursor.word(token)) === undefined
      )
        break
    }
  }
  return clues
}

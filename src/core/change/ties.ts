/**
 * What of other zones a zone’s findings and answers can depend on: the names that its records speak of, and keys that it may share with others.
 * It is rather too much than too little: any word of a text that could be a name is taken for one.
 */
import { createHash } from 'node:crypto'
import { parseKey } from '../mail/dkim/key.ts'
import { DROPPED, type Zone, type Zones } from '../model/zones.ts'
import { foldName } from '../names/name.ts'
import { reverseName } from '../names/reverse.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'

/** Names are absolute and in lower case; what is no name begins with a `#`. */
export type Tie = string

/** What no name has; `/` stands in those of classless delegations (RFC 2317). */
const BETWEEN = /[^\w.*\\/-]+/
/** The longest name, with every octet escaped (RFC 1035 §2.3.4, §5.1). */
const LONGEST = 1010

/** Words of a text that may be names of two labels and more; of one with a path, its host, too. */
export const namesIn = (text: string): string[] =>
  text
    .split(BETWEEN)
    .filter((word) => word.length <= LONGEST && /[^.]\.[^.]/.test(word))
    .flatMap((word) => (word.includes('/') ? [word, ...word.split('/').filter((part) => part.includes('.'))] : [word]))

/** The ties of a zone, each once; names in it are among them, since some may be in a zone below. */
export function tiesOf(zones: Zones, zone: Zone): Tie[] {
  const ties = new Set<Tie>()
  const { tree } = zones
  const add = (word: string): void => void ties.add(foldName(word.endsWith('.') ? word : `${word}.`))
  for (const record of zones.recordsIn(zone)) {
    if (zones.flags(record) & DROPPED) continue
    const type = zones.type(record)
    if (type === TYPE.A || type === TYPE.AAAA) {
      ties.add(reverseName(zones.rdata(record)))
      continue
    }
    const text = zones.rdataText(record)
    // Strings of a text are joined before they are read, so that a name may run over their ends.
    const said = type === TYPE.TXT ? joined(zones.rdata(record)) : text
    for (const word of namesIn(said)) add(word)
    const key = type === TYPE.TXT && /_domainkey/i.test(tree.text(zones.owner(record))) ? keyIn(said) : undefined
    if (key) ties.add(`#${key}`)
  }
  return [...ties]
}

/** A key’s digest. Zones that have the same one are spoken of together. */
function keyIn(text: string): string | undefined {
  const { key } = parseKey(text).record
  return key && key.length > 0 ? createHash('sha256').update(key).digest('base64url').slice(0, 12) : undefined
}

/** How evaluations learn what the DNS holds: the caller's own function, of which ours is made from a source of knowledge. */
import type { Find, Knowledge, Unanswered } from '../knowledge/find.ts'
import { labelText, MAX_LABEL, MAX_NAME, type Name } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { rdataText } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'

export type LookupType = 'A' | 'AAAA' | 'MX' | 'PTR' | 'TXT'

/**
 * What is at a name, aliases followed: the records' data as text (an address; of MX the preference and the exchange; a name; of TXT the strings joined without
 * anything between them, one character an octet), or why there are none: no such name, none of that type, no answer in time, a server's failure, aliases that lead
 * nowhere, or that nothing is known of the name and nobody was asked (the last four are judged as a failure is).
 */
export type Found = { data: readonly string[] } | { trouble: 'no-name' | 'no-data' | Unanswered }

/** Why an answer says nothing; undefined for one that does, be it that there is nothing. */
export function unanswered(found: Found): Unanswered | undefined {
  return 'trouble' in found && found.trouble !== 'no-name' && found.trouble !== 'no-data' ? found.trouble : undefined
}

/** Names are absolute, with their final dot, special octets escaped. */
export type Lookup = (name: Name, type: LookupType) => Found | Promise<Found>

/** What a source of knowledge knows, as evaluations want it. */
export const lookupFrom =
  (find: Find): Lookup =>
  (name, type) => {
    const known = find(name, TYPE[type])
    return known instanceof Promise ? known.then(foundIn) : foundIn(known)
  }

function foundIn({ outcome, set, why = 'unknown' }: Knowledge): Found {
  if (set) return { data: set.data.map((data) => (set.type === TYPE.TXT ? joined(data) : rdataText(set.type, data))) }
  return { trouble: outcome === 'no-data' || outcome === 'no-name' ? outcome : why }
}

/** A text of labels parted by dots as a name; undefined where it is none (RFC 1035 §2.3.4). Whatever octets the labels have. */
export function domainToName(domain: string): Name | undefined {
  const labels = domain.replace(/\.$/, '').split('.').map(octetsOf)
  if (labels.some((label) => label.length === 0 || label.length > MAX_LABEL)) return undefined
  if (labels.reduce((sum, label) => sum + label.length + 1, 1) > MAX_NAME) return undefined
  return labels.map((label) => `${labelText(label, 0, label.length)}.`).join('')
}

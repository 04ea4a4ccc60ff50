/** How evaluations learn what the DNS holds: the caller's own function. */
import { answer } from '../knowledge/answer.ts'
import type { Zones } from '../model/zones.ts'
import { labelText, MAX_LABEL, MAX_NAME, type Name, wireToName } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { rdataText } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'

export type LookupType = 'A' | 'AAAA' | 'MX' | 'PTR' | 'TXT'

/**
 * What is at a name, aliases followed: the records' data as text (an address; of MX the preference and the exchange; a name; of TXT the strings joined without
 * anything between them, one character an octet), or why there are none: no such name, none of that type, no answer in time, a server's failure, or that nothing is
 * known of the name and nobody was asked (judged as a failure is).
 */
export type Found = { data: readonly string[] } | { trouble: 'no-name' | 'no-data' | Unanswered }
export type Unanswered = 'time-out' | 'server-failure' | 'unknown'

/** Why an answer says nothing; undefined for one that does, be it that there is nothing. */
export function unanswered(found: Found): Unanswered | undefined {
  return 'trouble' in found && found.trouble !== 'no-name' && found.trouble !== 'no-data' ? found.trouble : undefined
}

/** The same in words. */
export const UNANSWERED: Record<Unanswered, string> = {
  'time-out': 'could not be asked for (no answer)',
  'server-failure': 'could not be asked for (the server failed)',
  unknown: 'is not known here',
}

/** Names are absolute, with their final dot, special octets escaped. */
export type Lookup = (name: Name, type: LookupType) => Found | Promise<Found>

/** A text of labels parted by dots as a name; undefined where it is none (RFC 1035 §2.3.4). Whatever octets the labels have. */
export function domainToName(domain: string): Name | undefined {
  const labels = domain.replace(/\.$/, '').split('.').map(octetsOf)
  if (labels.some((label) => label.length === 0 || label.length > MAX_LABEL)) return undefined
  if (labels.reduce((sum, label) => sum + label.length + 1, 1) > MAX_NAME) return undefined
  return labels.map((label) => `${labelText(label, 0, label.length)}.`).join('')
}

/** The name outside the kept zones that aliases in them lead to from a name; undefined where they lead to none. */
export function aliasOutside(zones: Zones, name: Name, type: LookupType): Name | undefined {
  const { kind, answers } = answer(zones, name, TYPE[type])
  const last = answers.at(-1)
  return kind === 'alias' && last?.type === TYPE.CNAME ? wireToName(last.data[0]!) : undefined
}

/** What a server with the kept zones (sealed) has at a name; undefined where that cannot be known from them. */
export function findKept(zones: Zones, name: Name, type: LookupType): Found | undefined {
  const found = answer(zones, name, TYPE[type])
  if (found.kind === 'data') {
    const set = found.answers[found.answers.length - 1]!
    return { data: set.data.map((data) => (type === 'TXT' ? joined(data) : rdataText(set.type, data))) }
  }
  if (found.kind === 'no-data') return { trouble: 'no-data' }
  if (found.kind !== 'no-name' || found.zone?.complete === false) return undefined
  return { trouble: 'no-name' }
}

/** Which DMARC record receivers apply to a domain (RFC 7489 §6.6.3), and which by its successor’s tree walk; and when two domains are aligned (§3.1). */

import type { Unanswered } from '../../knowledge/find.ts'
import { foldName, labelsOf, type Name } from '../../names/name.ts'
import { type Found, type Lookup, unanswered } from '../lookup.ts'
import { type Alignment, type DmarcRecord, isDmarc, readDmarc } from './record.ts'

export interface Discovered {
  /** The organizational domain, as this way finds it. */
  organization: Name
  /** Where the record stands, without `_dmarc`, and what it is; undefined where receivers find none. */
  at?: Name
  text?: string
  record?: DmarcRecord
  /** Asking failed: receivers put the mail off. */
  trouble?: Unanswered
}

type At = { text: string; record: DmarcRecord } | 'none' | 'several' | Unanswered

async function recordAt(name: Name, lookup: Lookup): Promise<At> {
  const found: Found = await lookup(`_dmarc.${name}`, 'TXT')
  if ('trouble' in found) return unanswered(found) ?? 'none'
  const texts = found.data.filter(isDmarc)
  if (texts.length > 1) return 'several'
  return texts.length === 1 ? { text: texts[0]!, record: readDmarc(texts[0]!).record } : 'none'
}

/** The domain itself, then its organizational domain; `organizational` finds that by the public suffix list. */
export async function discoverByList(
  domain: Name,
  lookup: Lookup,
  organizational: (name: Name) => Name,
): Promise<Discovered> {
  const organization = organizational(domain)
  for (const name of foldName(domain) === foldName(organization) ? [domain] : [domain, organization]) {
    const found = await recordAt(name, lookup)
    if (typeof found !== 'string') return { organization, at: name, ...found }
    // Several records end the search: no policy is applied, that of the organization neither.
    if (found === 'several') return { organization }
    if (found !== 'none') return { organization, trouble: found }
  }
  return { organization }
}

/** Names with more labels are walked from their last seven on. */
const LONGEST_WALK = 8

/** The tree walk: upwards from the domain, as far as a record says with `psd` that it is an organization’s or a public suffix’s; else to the top. */
export async function discoverByWalk(domain: Name, lookup: Lookup): Promise<Discovered> {
  const found: { name: Name; text: string; record: DmarcRecord }[] = []
  let organization: Name | undefined
  let labels = labelsOf(domain)
  for (let first = true; labels.length > 0; first = false) {
    const name = `${labels.join('.')}.`
    const at = await recordAt(name, lookup)
    if (typeof at === 'string') {
      // Several records at a name are passed over here, and the walk goes on.
      if (at !== 'none' && at !== 'several') return { organization: domain, trouble: at }
    } else {
      found.push({ name, ...at })
      if (at.record.suffix === 'n') organization = name
      // Mail of a public suffix itself: what it says of names below does not end the walk at it.
      else if (at.record.suffix === 'y' && !first) organization = below(name, domain)
      if (organization !== undefined) break
    }
    labels = labels.length >= LONGEST_WALK ? labels.slice(-(LONGEST_WALK - 1)) : labels.slice(1)
  }
  organization ??= found.at(-1)?.name ?? domain
  const chosen =
    found.find(({ name }) => foldName(name) === foldName(domain)) ??
    found.find(({ name }) => foldName(name) === foldName(organization)) ??
    found.find(({ record }) => record.suffix === 'y')
  return { organization, ...(chosen ? { at: chosen.name, text: chosen.text, record: chosen.record } : {}) }
}

/** The name one label below `top` on the way to `name`. */
function below(top: Name, name: Name): Name {
  const labels = labelsOf(name)
  return `${labels.slice(-(labelsOf(top).length + 1)).join('.')}.`
}

/** Whether a domain that was authenticated is aligned with that of `From:`: the same, or (relaxed) of the same organization. */
export function isAligned(
  authenticated: Name,
  from: Name,
  mode: Alignment,
  organizational: (name: Name) => Name,
): boolean {
  if (foldName(authenticated) === foldName(from)) return true
  return mode === 'relaxed' && foldName(organizational(authenticated)) === foldName(organizational(from))
}

/** Where a domain must say that it takes the reports of another (RFC 7489 §7.1). */
export const consentName = (reporting: Name, destination: Name): Name => `${reporting}_report._dmarc.${destination}`

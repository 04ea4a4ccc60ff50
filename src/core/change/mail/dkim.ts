/** Keys that mail is signed with: what writing one changes. */

import type { SetChange } from '../../file/edit/changes.ts'
import { looksLikeKey, parseKey } from '../../mail/dkim/key.ts'
import { setAt, type Zone, type Zones } from '../../model/zones.ts'
import { bare, foldName, type Name } from '../../names/name.ts'
import type { Rdata } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { joined, textData } from '../../records/views.ts'
import { isSelector } from '../../rules/look.ts'
import type { MailChange } from './text.ts'
/** What to publish at a selector: a key, an alias to another’s key, or that it is revoked. */
export type KeyWish = { text: string } | { alias: Rdata } | 'revoked'

/** Writes what stands at a selector. Whatever stood there of the other type goes. */
export function keyChange(zones: Zones, zone: Zone, owner: Name, wish: KeyWish, ttl?: number): MailChange {
  const alias = typeof wish === 'object' && 'alias' in wish
  const notes: string[] = []
  const text = wish === 'revoked' ? 'v=DKIM1; p=' : 'text' in wish ? wish.text : undefined
  if (wish === 'revoked')
    notes.push(
      `${owner} is now revoked: mail signed with it fails. When no mail signed with it is in transit any more, remove it: bramblefront remove ${bare(owner)} TXT`,
    )
  if (text !== undefined && wish !== 'revoked') {
    const { record } = parseKey(text)
    notes.push(
      `${record.type === 'ed25519' ? 'Ed25519' : `${record.bits}-bit RSA`} key.${record.type === 'ed25519' ? ' Not every verifier supports Ed25519 yet, so sign with an RSA key as well.' : ''} ${text.length > 255 ? `The record has ${text.length} octets in ${Math.ceil(text.length / 255)} strings, which verifiers join.` : ''}`.trim(),
    )
  }
  const other = alias ? TYPE.TXT : TYPE.CNAME
  const changes: SetChange[] = setAt(zones, zone, owner, other) ? [{ owner, type: other, data: [] }] : []
  changes.push(
    alias
      ? { owner, type: TYPE.CNAME, ttl, data: [wish.alias] }
      : { owner, type: TYPE.TXT, ttl, data: [textData(text!)] },
  )
  return { changes, notes }
}

/** Selectors below a name that have a key or an alias, those that are revoked apart. */
export function selectorsOf(
  zones: Zones,
  zone: Zone,
  domain: Name,
): { selector: string; state: 'key' | 'alias' | 'revoked' }[] {
  const found: { selector: string; state: 'key' | 'alias' | 'revoked' }[] = []
  const suffix = `._domainkey.${foldName(domain)}`
  for (const record of zones.recordsIn(zone)) {
    const type = zones.type(record)
    if (type !== TYPE.TXT && type !== TYPE.CNAME) continue
    if (!isSelector(zones, zones.owner(record))) continue
    const owner = zones.tree.text(zones.owner(record))
    if (!foldName(owner).endsWith(suffix)) continue
    const selector = owner.slice(0, -suffix.length)
    if (selector === '*' || found.some((each) => each.selector === selector)) continue
    const text = type === TYPE.TXT ? joined(zones.rdata(record)) : ''
    if (type === TYPE.TXT && !looksLikeKey(text)) continue
    found.push({
      selector,
      state: type === TYPE.CNAME ? 'alias' : parseKey(text).record.key?.length === 0 ? 'revoked' : 'key',
    })
  }
  return found
}

/** A selector to follow one: its number one higher; else with a 2 behind it. */
export const selectorAfter = (selector: string): string =>
  /\d$/.test(selector)
    ? selector.replace(/(?<!\d)\d+$/, (digits) => String(BigInt(digits) + 1n).padStart(digits.length, '0'))
    : `${selector}2`

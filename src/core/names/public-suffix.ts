/** The public suffix list, as its package ships it. Large: to be imported only where it is needed. */
import { parse } from 'tldts'
import { bare, labelsOf, type Name } from './name.ts'

/** The package’s release, and the day of it: how old the list is. */
export const LIST = { release: '7.5.4', date: '2026-11-15' }

/** The public suffix that a name ends in (ICANN section), without dots at its ends, or undefined where none of the list fits. */
export function publicSuffixOf(name: string): string | undefined {
  const { publicSuffix, isIcann } = parse(bare(name), { allowPrivateDomains: false, validateHostname: false })
  return isIcann && publicSuffix ? publicSuffix : undefined
}

/**
 * The organizational domain of a name: one label more than the public suffix that it ends in, both sections of the list (RFC 7489 §3.2). Where the list has nothing, the last
 * label is the suffix. A public suffix itself is its own.
 */
export function organizationalDomain(name: Name): Name {
  const { publicSuffix } = parse(bare(name), { allowPrivateDomains: true, validateHostname: false })
  const labels = labelsOf(name)
  return `${labels.slice(-(labelsOf(publicSuffix ?? '').length + 1)).join('.')}.`
}

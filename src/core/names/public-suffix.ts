/** The public suffix list (ICANN section), as its package ships it. Large: to be imported only where it is needed. */
import { parse } from 'tldts'

/** The public suffix that a name ends in, without dots at its ends, or undefined where none of the list fits. */
export function publicSuffixOf(name: string): string | undefined {
  const { publicSuffix, isIcann } = parse(name.replace(/\.$/, ''), { allowPrivateDomains: false, validateHostname: false })
  return isIcann && publicSuffix ? publicSuffix : undefined
}

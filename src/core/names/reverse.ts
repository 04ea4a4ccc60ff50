/** Names under in-addr.arpa and ip6.arpa, and the addresses that they stand for (RFC 1035 §3.5, RFC 3596 §2.5). */
import type { Name } from './name.ts'

/** The name that an address (4 or 16 octets) is asked under for its host's name. */
export function reverseName(address: Uint8Array): Name {
  if (address.length === 4) return `${[...address].reverse().join('.')}.in-addr.arpa.`
  return `${[...address]
    .reverse()
    .map((octet) => `${(octet & 15).toString(16)}.${(octet >> 4).toString(16)}`)
    .join('.')}.ip6.arpa.`
}

export interface ReverseParts {
  /** The labels in front of in-addr.arpa or ip6.arpa, leftmost first. */
  labels: string[]
  /** How many a whole address has. */
  whole: 4 | 32
  /** Its octets, where the labels are those of one whole address. */
  address?: Uint8Array
}

/** What a name under in-addr.arpa or ip6.arpa is made of; undefined for any other name. */
export function reverseParts(name: Name): ReverseParts | undefined {
  const match = /^(?:(.*)\.)?(in-addr|ip6)\.arpa\.$/i.exec(name)
  if (!match) return undefined
  const labels = match[1] === undefined ? [] : match[1].split('.')
  if (match[2]!.toLowerCase() === 'in-addr') {
    const numbers = labels.map((label) => (/^(0|[1-9]\d{0,2})$/.test(label) ? Number(label) : 256))
    return {
      labels,
      whole: 4,
      address: labels.length === 4 && numbers.every((n) => n < 256) ? Uint8Array.from(numbers.reverse()) : undefined,
    }
  }
  const nibbles = labels.map((label) => (/^[0-9a-f]$/i.test(label) ? Number.parseInt(label, 16) : 16)).reverse()
  const fits = nibbles.length === 32 && nibbles.every((n) => n < 16)
  return {
    labels,
    whole: 32,
    address: fits ? Uint8Array.from({ length: 16 }, (_, i) => (nibbles[2 * i]! << 4) | nibbles[2 * i + 1]!) : undefined,
  }
}

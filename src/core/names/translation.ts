/** IPv6 addresses that are made of IPv4 ones, as translators between both take them (RFC 6052), and how a resolver shows in which prefix it makes them (RFC 7050). */

/** A prefix in which IPv4 addresses are embedded. */
export interface Translation {
  /** Sixteen octets, of which the first `length` bits count. */
  prefix: Uint8Array
  /** 32, 40, 48, 56, 64 or 96 bits (RFC 6052 §2.2). */
  length: number
}

/** Where the four octets stand, by the prefix's length: octet 8 is left out (RFC 6052 §2.2). */
const PLACES = new Map<number, readonly number[]>([
  [96, [12, 13, 14, 15]],
  [64, [9, 10, 11, 12]],
  [56, [7, 9, 10, 11]],
  [48, [6, 7, 9, 10]],
  [40, [5, 6, 7, 9]],
  [32, [4, 5, 6, 7]],
])

/** 64:ff9b::/96 (RFC 6052 §2.1). */
export const WELL_KNOWN: Translation = {
  prefix: new Uint8Array([0, 0x64, 0xff, 0x9b, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]),
  length: 96,
}

/** The IPv4 address (four octets) in an IPv6 one (sixteen octets) of this prefix; undefined where it is none of it. */
export function embeddedIn(address: Uint8Array, { prefix, length }: Translation): Uint8Array | undefined {
  const isOfPrefix = address.length === 16 && prefix.every((octet, i) => i >= length / 8 || address[i] === octet)
  return isOfPrefix ? Uint8Array.from(PLACES.get(length)!, (place) => address[place]!) : undefined
}

/** What `ipv4only.arpa` has (RFC 7050 §2.2). */
const KNOWN = [
  [192, 0, 0, 170],
  [192, 0, 0, 171],
]

/** The prefixes that an answer for `ipv4only.arpa` AAAA shows: one address (sixteen octets) of it. */
export function translationIn(address: Uint8Array): Translation[] {
  if (address.length !== 16) return []
  return [...PLACES].flatMap(([length, places]): Translation[] => {
    const isHere = KNOWN.some((known) => known.every((octet, i) => address[places[i]!] === octet))
    return isHere ? [{ prefix: address, length }] : []
  })
}

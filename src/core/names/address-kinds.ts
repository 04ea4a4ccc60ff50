/** What an address is for (RFC 6890 and the registries that it began), as far as a zone's author needs to know. */

export type AddressKind = 'public' | 'private' | 'loopback' | 'link-local' | 'shared' | 'unspecified' | 'multicast' | 'reserved' | 'documentation' | 'mapped'

export interface Network {
  /** As people write it. */
  text: string
  octets: number[]
  bits: number
  kind: AddressKind
  /** Nobody outside can reach it. Documentation and mapped addresses are other faults. */
  unreachable: boolean
}

/** The networks that are not for hosts that everybody shall reach, the narrower ones first. */
const network = (text: string, kind: AddressKind, octets: number[]): Network => ({
  text,
  kind,
  octets,
  bits: Number(text.slice(text.indexOf('/') + 1)),
  unreachable: kind !== 'documentation' && kind !== 'mapped',
})
const IPV4: Network[] = [
  network('10.0.0.0/8', 'private', [10]),
  network('172.16.0.0/12', 'private', [172, 16]),
  network('192.168.0.0/16', 'private', [192, 168]),
  network('127.0.0.0/8', 'loopback', [127]),
  network('169.254.0.0/16', 'link-local', [169, 254]),
  network('100.64.0.0/10', 'shared', [100, 64]),
  network('0.0.0.0/8', 'unspecified', [0]),
  network('192.0.2.0/24', 'documentation', [192, 0, 2]),
  network('198.51.100.0/24', 'documentation', [198, 51, 100]),
  network('203.0.113.0/24', 'documentation', [203, 0, 113]),
  network('192.0.0.0/24', 'reserved', [192, 0, 0]),
  network('198.18.0.0/15', 'reserved', [198, 18]),
  network('224.0.0.0/4', 'multicast', [224]),
  network('240.0.0.0/4', 'reserved', [240]),
]
const IPV6: Network[] = [
  network('::/128', 'unspecified', new Array(16).fill(0)),
  network('::1/128', 'loopback', [...new Array(15).fill(0), 1]),
  network('::ffff:0:0/96', 'mapped', [...new Array(10).fill(0), 0xff, 0xff]),
  network('fc00::/7', 'private', [0xfc]),
  network('fe80::/10', 'link-local', [0xfe, 0x80]),
  network('ff00::/8', 'multicast', [0xff]),
  network('2001:db8::/32', 'documentation', [0x20, 0x01, 0x0d, 0xb8]),
  network('3fff::/20', 'documentation', [0x3f, 0xff]),
  network('100::/64', 'reserved', [1, 0, 0, 0, 0, 0, 0, 0]),
]
/** The networks by the first octet of their addresses: most have one or two. */
function byFirst(networks: readonly Network[]): Network[][] {
  const found: Network[][] = Array.from({ length: 256 }, () => [])
  for (const each of networks) for (let i = 0; i < (each.bits < 8 ? 1 << (8 - each.bits) : 1); i++) found[each.octets[0] + i].push(each)
  return found
}
const BY_FIRST4 = byFirst(IPV4)
const BY_FIRST6 = byFirst(IPV6)

/** Whether an address is in a network whose first `bits` bits `octets` begins with (missing octets are zero). */
export function isIn(address: Uint8Array, octets: ArrayLike<number>, bits: number, at = 0): boolean {
  for (let i = 0; i * 8 < bits; i++) {
    const mask = bits - i * 8 >= 8 ? 0xff : (0xff << (8 - (bits - i * 8))) & 0xff
    if ((address[at + i] & mask) !== ((octets[i] ?? 0) & mask)) return false
  }
  return true
}

/** The special network that an address (4 or 16 octets, from `at` on) is in, or undefined for one like any other. */
export function specialNetwork(octets: Uint8Array, at = 0, length = octets.length): Network | undefined {
  const networks = (length === 4 ? BY_FIRST4 : BY_FIRST6)[octets[at]]
  for (let i = 0; i < networks.length; i++) if (isIn(octets, networks[i].octets, networks[i].bits, at)) return networks[i]
  return undefined
}

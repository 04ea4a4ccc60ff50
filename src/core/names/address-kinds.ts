/**
 * What an address is for: the special-purpose registries of IPv4 and IPv6 (RFC 6890, as they stood in October 2025), with multicast and the site-local
 * addresses that were given up. The one list of its kind.
 */
import { parseAddress } from './address.ts'

export type AddressKind =
  | 'public'
  | 'private'
  | 'loopback'
  | 'link-local'
  | 'shared'
  | 'unspecified'
  | 'multicast'
  | 'reserved'
  | 'transition'
  | 'documentation'
  | 'mapped'

export interface Network {
  /** As people write it. */
  text: string
  octets: Uint8Array
  bits: number
  kind: AddressKind
  /** Nobody outside can reach it. Documentation and mapped addresses are other faults. */
  unreachable: boolean
}

/** By kind. What is `public` is reachable by everybody although it is in a network that is not. */
const NETWORKS: Partial<Record<AddressKind, string>> = {
  private: '10.0.0.0/8 172.16.0.0/12 192.168.0.0/16 fc00::/7 fec0::/10 64:ff9b:1::/48',
  loopback: '127.0.0.0/8 ::1/128',
  'link-local': '169.254.0.0/16 fe80::/10',
  shared: '100.64.0.0/10',
  unspecified: '0.0.0.0/8 ::/128',
  multicast: '224.0.0.0/4 ff00::/8',
  reserved: '192.0.0.0/24 198.18.0.0/15 240.0.0.0/4 100::/64 100:0:0:1::/64 2001::/23 5f00::/16',
  // Relays that were given up (RFC 7526, RFC 6751), and what only they reach.
  transition: '192.88.99.0/24 2002::/16 2001::/32',
  documentation: '192.0.2.0/24 198.51.100.0/24 203.0.113.0/24 2001:db8::/32 3fff::/20',
  mapped: '::ffff:0:0/96',
  public:
    '192.0.0.9/32 192.0.0.10/32 2001:1::1/128 2001:1::2/128 2001:1::3/128 2001:3::/32 2001:4:112::/48 2001:20::/28 2001:30::/28',
}

function network(text: string, kind: AddressKind): Network {
  const [address = '', bits] = text.split('/')
  return {
    text,
    kind,
    octets: parseAddress(address)!,
    bits: Number(bits),
    unreachable: kind !== 'documentation' && kind !== 'mapped' && kind !== 'public',
  }
}

/** The narrower ones first: what they say counts. */
const ALL = Object.entries(NETWORKS)
  .flatMap(([kind, texts]) => texts.split(' ').map((text) => network(text, kind as AddressKind)))
  .sort((a, b) => b.bits - a.bits)

/** The networks by the first octet of their addresses: most have one or two. */
function byFirst(networks: readonly Network[]): Network[][] {
  const found: Network[][] = Array.from({ length: 256 }, () => [])
  for (const each of networks)
    for (let i = 0; i < (each.bits < 8 ? 1 << (8 - each.bits) : 1); i++) found[each.octets[0]! + i]!.push(each)
  return found
}
const BY_FIRST4 = byFirst(ALL.filter(({ octets }) => octets.length === 4))
const BY_FIRST6 = byFirst(ALL.filter(({ octets }) => octets.length === 16))

/** Whether an address is in a network whose first `bits` bits `octets` begins with (missing octets are zero). */
export function isIn(address: Uint8Array, octets: ArrayLike<number>, bits: number, at = 0): boolean {
  for (let i = 0; i * 8 < bits; i++) {
    const mask = bits - i * 8 >= 8 ? 0xff : (0xff << (8 - (bits - i * 8))) & 0xff
    if ((address[at + i]! & mask) !== ((octets[i] ?? 0) & mask)) return false
  }
  return true
}

/** The special network that an address (4 or 16 octets, from `at` on) is in, or undefined for one like any other. */
export function specialNetwork(octets: Uint8Array, at = 0, length = octets.length): Network | undefined {
  const networks = (length === 4 ? BY_FIRST4 : BY_FIRST6)[octets[at]!]!
  for (let i = 0; i < networks.length; i++)
    if (isIn(octets, networks[i]!.octets, networks[i]!.bits, at))
      return networks[i]!.kind === 'public' ? undefined : networks[i]
  return undefined
}

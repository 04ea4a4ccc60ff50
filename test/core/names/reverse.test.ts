import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { parseAddress } from '../../../src/core/names/address.ts'
import { isIn, specialNetwork } from '../../../src/core/names/address-kinds.ts'
import { reverseName, reverseParts } from '../../../src/core/names/reverse.ts'

describe('reverse names', () => {
  // RFC 1035 §3.5; RFC 3596 §2.5.
  test.each([
    ['10.2.0.52', '52.0.2.10.in-addr.arpa.'],
    ['4321:0:1:2:3:4:567:89ab', 'b.a.9.8.7.6.5.0.4.0.0.0.3.0.0.0.2.0.0.0.1.0.0.0.0.0.0.0.1.2.3.4.ip6.arpa.'],
  ])('%s', (address, name) => {
    expect(reverseName(parseAddress(address)!)).toBe(name)
    expect(reverseParts(name.toUpperCase())?.address).toEqual(parseAddress(address))
  })
  test('there and back', () => {
    const address = fc.oneof(
      fc.uint8Array({ minLength: 4, maxLength: 4 }),
      fc.uint8Array({ minLength: 16, maxLength: 16 }),
    )
    fc.assert(
      fc.property(address, (octets) => {
        expect([...reverseParts(reverseName(octets))!.address!]).toEqual([...octets])
      }),
    )
  })
  test.each([
    ['in-addr.arpa.', 0],
    ['2.0.192.in-addr.arpa.', 3],
    ['1.0/25.2.0.192.in-addr.arpa.', 5],
    ['256.2.0.192.in-addr.arpa.', 4],
    ['01.2.0.192.in-addr.arpa.', 4],
    ['_dns-sd._udp.2.0.192.in-addr.arpa.', 5],
    ['8.b.d.0.1.0.0.2.ip6.arpa.', 8],
  ])('%s is no whole address', (name, labels) => {
    expect(reverseParts(name)).toMatchObject({ address: undefined })
    expect(reverseParts(name)?.labels).toHaveLength(labels)
  })
  test('other names are none', () =>
    expect(['arpa.', 'xin-addr.arpa.', 'in-addr.arpa.example.'].map(reverseParts)).toEqual([
      undefined,
      undefined,
      undefined,
    ]))
})

describe('what an address is for', () => {
  test.each<[string, string | undefined]>([
    ['10.255.0.1', 'private'],
    ['172.15.255.255', undefined],
    ['172.16.0.0', 'private'],
    ['172.31.255.255', 'private'],
    ['172.32.0.0', undefined],
    ['192.168.7.7', 'private'],
    ['192.169.0.0', undefined],
    ['127.0.0.53', 'loopback'],
    ['169.254.9.9', 'link-local'],
    ['100.63.255.255', undefined],
    ['100.64.0.1', 'shared'],
    ['100.128.0.0', undefined],
    ['0.0.0.0', 'unspecified'],
    ['192.0.2.255', 'documentation'],
    ['198.51.100.1', 'documentation'],
    ['203.0.113.1', 'documentation'],
    ['198.19.0.1', 'reserved'],
    ['224.0.0.251', 'multicast'],
    ['255.255.255.255', 'reserved'],
    ['::', 'unspecified'],
    ['::1', 'loopback'],
    ['::2', undefined],
    ['::ffff:192.0.2.1', 'mapped'],
    ['fd00::1', 'private'],
    ['fe80::1', 'link-local'],
    ['fec0::1', 'private'],
    ['64:ff9b::c000:221', undefined],
    ['64:ff9b:1::1', 'private'],
    ['2002:c000:204::1', 'transition'],
    ['2001::1', 'transition'],
    ['2001:2::1', 'reserved'],
    ['2001:3::1', undefined],
    ['2001:4:112::1', undefined],
    ['2001:20::1', undefined],
    ['5f00::1', 'reserved'],
    ['192.88.99.1', 'transition'],
    ['192.0.0.9', undefined],
    ['192.0.0.10', undefined],
    ['192.0.0.11', 'reserved'],
    ['192.31.196.1', undefined],
    ['ff02::fb', 'multicast'],
    ['2001:db8:ffff::1', 'documentation'],
    ['2001:db9::1', undefined],
    ['3fff:fff::1', 'documentation'],
    ['3fff:1000::1', undefined],
    ['2606::1', undefined],
  ])('%s: %s', (address, kind) => expect(specialNetwork(parseAddress(address)!)?.kind).toBe(kind))

  test('a network of any length is what its first bits say', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 4, maxLength: 4 }),
        fc.integer({ min: 0, max: 32 }),
        fc.integer({ min: 0, max: 31 }),
        (octets, bits, flipped) => {
          const other = octets.slice()
          other[flipped >> 3]! ^= 0x80 >> (flipped & 7)
          expect(isIn(octets, octets, bits)).toBe(true)
          expect(isIn(other, octets, bits)).toBe(flipped >= bits)
        },
      ),
    )
  })
})

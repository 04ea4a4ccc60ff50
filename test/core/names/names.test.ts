import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { addressText, parseAddress } from '../../../src/core/names/address.ts'
import { foldName, isAtOrBelow, labelsOf, nameToWire, toName, wireToName } from '../../../src/core/names/name.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { NameTree, NONE, ROOT } from '../../../src/core/names/tree.ts'

const wire = (text: string): Uint8Array => nameToWire(text) as Uint8Array

describe('names as text and octets', () => {
  test.each([
    ['.', [0]],
    ['a.bc.', [1, 0x61, 2, 0x62, 0x63, 0]],
    ['a\\.b.', [3, 0x61, 0x2e, 0x62, 0]],
    ['\\097\\000.', [2, 0x61, 0, 0]],
    ['*.x.', [1, 0x2a, 1, 0x78, 0]],
  ])('%s', (text, octets) => {
    expect([...wire(text)]).toEqual(octets)
    expect(wireToName(new Uint8Array(octets))).toBe(text === '\\097\\000.' ? 'a\\000.' : text)
  })

  test.each([
    ['', 'empty'],
    ['a..b', 'empty-label'],
    ['.a', 'empty-label'],
    [`${'a'.repeat(64)}.example.`, 'label-too-long'],
    [`${'a.'.repeat(128)}`, 'name-too-long'],
    ['a\\', 'bad-escape'],
    ['a\\25', 'bad-escape'],
    ['a\\256.', 'bad-escape'],
  ])('%s is no name', (text, trouble) => expect(nameToWire(text)).toBe(trouble))

  test('the longest label and the longest name are names', () => {
    expect(toName(`${'a'.repeat(63)}.`)).toBeDefined()
    expect(wire('a.'.repeat(127))).toHaveLength(255)
  })

  test('relative to an origin', () => {
    const origin = wire('hollowmere.example.')
    expect(wireToName(wire('a.b.Hollowmere.EXAMPLE.'), 0, origin)).toBe('a.b')
    expect(wireToName(origin, 0, origin)).toBe('@')
    expect(wireToName(wire('lakepass.example.'), 0, origin)).toBe('lakepass.example.')
    expect(wireToName(wire('xhollowmere.example.'), 0, origin)).toBe('xhollowmere.example.')
  })

  test.each([
    ['www.hollowmere.example.', 'hollowmere.example.', true],
    ['HOLLOWMERE.example.', 'hollowmere.EXAMPLE.', true],
    ['xhollowmere.example.', 'hollowmere.example.', false],
    ['a\\.hollowmere.example.', 'hollowmere.example.', false],
    ['a\\\\.hollowmere.example.', 'hollowmere.example.', true],
    ['anything.', '.', true],
  ])('%s at or below %s: %s', (name, ancestor, is) => expect(isAtOrBelow(name, ancestor)).toBe(is))

  const label = fc.uint8Array({ minLength: 1, maxLength: 20 })
  test('any octets survive the way to text and back, and the tree finds them again without case', () => {
    fc.assert(
      fc.property(fc.array(label, { maxLength: 6 }), (labels) => {
        const octets = new Uint8Array([...labels.flatMap((each) => [each.length, ...each]), 0])
        const text = wireToName(octets)
        expect(nameToWire(text)).toEqual(octets)
        expect(labelsOf(text)).toHaveLength(labels.length)
        const tree = new NameTree()
        const id = tree.internWire(octets)
        expect(tree.text(id)).toBe(text)
        expect(tree.findWire(wire(foldName(text)))).toBe(id)
        expect(tree.wireLength(id)).toBe(octets.length)
      }),
    )
  })

  test('the tree keeps many names apart, and refuses one over 255 octets', () => {
    const tree = new NameTree()
    const ids = Array.from({ length: 5000 }, (_, i) => tree.child(ROOT, octetsOf(`n${i}`), 0, `n${i}`.length))
    expect(new Set(ids).size).toBe(5000)
    expect(ids.every((id, i) => tree.find(ROOT, octetsOf(`N${i}`), 0, `N${i}`.length) === id)).toBe(true)
    let id = ROOT
    for (let i = 0; i < 4; i++) id = tree.child(id, new Uint8Array(61).fill(0x61), 0, 61)
    expect(tree.child(id, new Uint8Array(10).fill(0x61), 0, 10)).toBe(NONE)
  })
})

describe('addresses', () => {
  // The examples of RFC 5952 §1 and §4, each to its one recommended text.
  test.each([
    ['2001:db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
    ['2001:0db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
    ['2001:db8::0:1', '2001:db8::1'],
    ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1'],
    ['2001:0:0:1:0:0:0:1', '2001:0:0:1::1'],
    ['2001:DB8::AAAA', '2001:db8::aaaa'],
    ['::', '::'],
    ['::1', '::1'],
    ['1::', '1::'],
    ['::ffff:192.0.2.1', '::ffff:192.0.2.1'],
    ['64:ff9b::192.0.2.33', '64:ff9b::c000:221'],
    ['192.0.2.7', '192.0.2.7'],
  ])('%s is %s', (text, canonical) => expect(addressText(parseAddress(text)!)).toBe(canonical))

  test.each([
    '192.0.2',
    '192.0.2.1.',
    '192.0.2.256',
    '192.0.02.1',
    '192.0.2.1:80',
    ' 192.0.2.1',
    '1:2:3:4:5:6:7',
    '1:2:3:4:5:6:7:8:9',
    '1::2::3',
    ':1::',
    '1:',
    '::12345',
    '::g',
    '2001:db8::1/64',
    '1:2:3:4:5:6:7::8',
    '',
  ])('%s is none', (text) => expect(parseAddress(text)).toBeUndefined())

  test('any address survives the way to text and back', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.uint8Array({ minLength: 4, maxLength: 4 }), fc.uint8Array({ minLength: 16, maxLength: 16 })),
        (octets) => void expect(parseAddress(addressText(octets))).toEqual(octets),
      ),
    )
  })
})

/** IPv4 addresses in IPv6 ones. */
import { expect, test } from 'vitest'
import { parseAddress } from '../../../src/core/names/address.ts'
import { embeddedIn, translationIn, WELL_KNOWN } from '../../../src/core/names/translation.ts'

const six = (text: string): Uint8Array => parseAddress(text)!

// RFC 6052 §2.4, tables 2 and 3.
test.each([
  ['2001:db8::', 32, '2001:db8:c000:221::'],
  ['2001:db8:100::', 40, '2001:db8:1c0:2:21::'],
  ['2001:db8:122::', 48, '2001:db8:122:c000:2:2100::'],
  ['2001:db8:122:300::', 56, '2001:db8:122:3c0:0:221::'],
  ['2001:db8:122:344::', 64, '2001:db8:122:344:c0:2:2100::'],
  ['2001:db8:122:344::', 96, '2001:db8:122:344::192.0.2.33'],
  ['64:ff9b::', 96, '64:ff9b::192.0.2.33'],
])('192.0.2.33 in %s/%i', (prefix, length, address) => {
  const by = { prefix: six(prefix), length }
  expect(embeddedIn(six(address), by)).toEqual(six('192.0.2.33'))
  // One bit of the prefix is another.
  const other = six(address)
  other[length / 8 - 1]! ^= 1
  expect(embeddedIn(other, by)).toBeUndefined()
})

test('the prefix is seen in what a resolver makes of ipv4only.arpa (RFC 7050 §3)', () => {
  const learnt = translationIn(six('2001:db8:64::192.0.0.171'))
  expect(learnt.map(({ length }) => length)).toEqual([96])
  expect(embeddedIn(six('2001:db8:64::192.0.2.33'), learnt[0]!)).toEqual(six('192.0.2.33'))
  expect(translationIn(six('2001:db8:64::192.0.0.172'))).toEqual([])
  expect(translationIn(six('192.0.0.170'))).toEqual([])
  expect(embeddedIn(six('192.0.2.33'), WELL_KNOWN)).toBeUndefined()
})

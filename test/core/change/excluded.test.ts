/** What goes so that what comes can stay: an alias stands alone at its name (RFC 1034 §3.6.2). */
import { expect, test } from 'vitest'
import { excludedBy } from '../../../src/core/change/excluded.ts'
import { TYPE, typeText } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'

const TEXT =
  'mail CNAME site\nboth A 192.0.2.1\nboth TXT "x"\nboth RRSIG A 13 3 60 20300101000000 20200101000000 1 @ AA==\nsite A 192.0.2.2'
const set = (owner: string, type: number, count = 1) => ({
  owner: owner === '@' ? 'hollowmere.example.' : `${owner}.hollowmere.example.`,
  type,
  data: Array.from({ length: count }, (_, i) => new Uint8Array([192, 0, 2, i])),
})

test.each([
  ['addresses in the place of an alias', [set('mail', TYPE.A), set('mail', TYPE.AAAA)], ['mail CNAME']],
  ['an alias in the place of all else but signatures', [set('both', TYPE.CNAME)], ['both A', 'both TXT']],
  ['whatever the case of the name', [set('MAIL', TYPE.A)], ['mail CNAME']],
  ['an alias that becomes another one', [set('mail', TYPE.CNAME)], []],
  ['a set beside sets', [set('both', TYPE.MX)], []],
  ['a set that goes', [set('mail', TYPE.A, 0)], []],
  ['an alias that the change takes out itself', [set('mail', TYPE.CNAME, 0), set('mail', TYPE.A)], []],
  ['an alias and other data at once, which nothing can put right', [set('both', TYPE.CNAME), set('both', TYPE.A)], []],
  ['the apex, where no alias can be', [set('@', TYPE.CNAME)], []],
])('%s', (_what, changes, expected) => {
  const zones = exampleZones(TEXT)
  const found = excludedBy(zones, zones.zones[0]!, changes)
  expect(found.every(({ data }) => data.length === 0)).toBe(true)
  expect(
    found
      .map(({ owner, type }) => `${owner.toLowerCase().replace('.hollowmere.example.', '')} ${typeText(type)}`)
      .sort(),
  ).toEqual(expected)
})

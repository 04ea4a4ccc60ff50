/** What stays of a provider in SPF when its mail exchangers go. */
import { expect, test } from 'vitest'
import { leftBehind } from '../../../src/core/change/mail/left-behind.ts'
import { foldName } from '../../../src/core/names/name.ts'
import { organizationalDomain } from '../../../src/core/names/public-suffix.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { TYPE } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'

const ZONE = 'hollowmere.example.'
const TEXT =
  '@ MX 10 mx1.larkpost.example.\n@ MX 20 mx2.larkpost.example.\n@ TXT "v=spf1 include:_spf.larkpost.example include:_spf.quillwing.example -all"\nnone MX 10 mx.larkpost.example.'
const mx = (owner: string, ...values: string[]) => ({
  owner,
  type: TYPE.MX,
  data: values.map((value) => (parseRdata(TYPE.MX, value, new Uint8Array([0])) as { wire: Uint8Array }).wire),
})

test.each([
  ['all of them go to another provider', [mx(ZONE, '10 mx.other.example.')], 1],
  ['all of them go, and nothing comes', [mx(ZONE)], 1],
  ['one of two goes', [mx(ZONE, '10 mx1.larkpost.example.')], 0],
  ['another host of theirs comes', [mx(ZONE, '10 mx9.larkpost.example.')], 0],
  ['a name without SPF', [mx(`none.${ZONE}`)], 0],
  ['their senders go in the same change', [mx(ZONE), { owner: ZONE, type: TYPE.TXT, data: [] }], 0],
])('%s', (_what, changes, count) => {
  const zones = exampleZones(TEXT)
  const notes = leftBehind(zones, zones.zones[0]!, changes, (name) => foldName(organizationalDomain(name)))
  expect(notes).toHaveLength(count)
  for (const note of notes) expect(note).toMatch(/--remove include:_spf\.larkpost\.example$/)
})

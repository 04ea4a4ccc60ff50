/** What both sides last had, as it moves forward: by what is there, by what was acknowledged, and by nothing else. */
import { describe, expect, test } from 'vitest'
import { type Sets, setKey } from '../../../src/core/change/difference.ts'
import type { RecordSet } from '../../../src/core/model/zones.ts'
import { advanced, broughtIn, sameTimers, withSent } from '../../../src/core/publish/base.ts'

/** `a 7` is the address 192.0.2.7 at a. */
const setOf = (text: string): RecordSet => {
  const [owner, last] = text.split(' ')
  return { owner: `${owner}.`, type: 1, ttl: 60, data: [new Uint8Array([192, 0, 2, Number(last)])] }
}
const sets = (text: string): Sets =>
  new Map(text === '' ? [] : text.split(', ').map((each) => [setKey(setOf(each)), setOf(each)]))
const textOf = (of: Sets): string => [...of.values()].map(({ owner, data }) => `${owner[0]} ${data[0]![3]}`).join(', ')

describe('what was sent by a call that was cut short', () => {
  test.each<[string, string, [string, 'acknowledged'?][], string, string]>([
    // base, sent, there → base
    ['is ours where it is there', 'a 1', [['a 2']], 'a 2', 'a 2'],
    ['was not done where it is not there', 'a 1', [['a 2']], 'a 1', 'a 1'],
    ['was there where that was said, whatever came behind it', 'a 1', [['a 2', 'acknowledged']], 'a 3', 'a 2'],
    ['is not known to have been there otherwise', 'a 1', [['a 2']], 'a 3', 'a 1'],
    ['is ours where it was a removal', 'a 1', [['a -']], '', ''],
    ['is ours in the step in which it stopped', 'a 1', [['a 2'], ['a 3']], 'a 2', 'a 2'],
    [
      'ends with its last step where both were acknowledged',
      'a 1',
      [
        ['a 2', 'acknowledged'],
        ['a 3', 'acknowledged'],
      ],
      'a 4',
      'a 3',
    ],
    ['says nothing of other sets', 'a 1, b 1', [['a 2']], 'a 2, b 2', 'a 2, b 1'],
  ])('%s', (_what, base, sent, there, expected) => {
    const all = sent.map(([text, said]) => {
      const set = setOf(text)
      return {
        owner: set.owner,
        type: 1,
        after: text.endsWith('-') ? undefined : set,
        acknowledged: said !== undefined,
      }
    })
    expect(textOf(withSent({ sets: sets(base) }, all, { sets: sets(there) }).sets)).toBe(expected)
  })
})

describe('a look at both sides', () => {
  test.each<[string, string | undefined, string, string, string, string?]>([
    // base, intended, there → base
    ['takes what both have', 'a 1', 'a 2', 'a 2', 'a 2'],
    ['takes that both have none', 'a 1', '', '', ''],
    ['keeps what it was where we changed it', 'a 1', 'a 2', 'a 1', 'a 1'],
    ['keeps what it was where others did', 'a 1', 'a 1', 'a 2', 'a 1'],
    ['keeps what it was where both did', 'a 1', 'a 2', 'a 3', 'a 1'],
    ['takes nothing of others', '', '', 'a 1', ''],
    ['takes what both have where nothing was known', undefined, 'a 1, b 1', 'a 1, b 2', 'a 1'],
    ['says nothing of what could not be seen', 'a 1', '', '', 'a 1', 'a'],
  ])('%s', (_what, base, intended, there, expected, unseen) => {
    const known = base === undefined ? undefined : { sets: sets(base) }
    const present = { sets: sets(there), unseen: new Set(unseen === undefined ? [] : [`${unseen}. 1`]) }
    expect(textOf(advanced(known, { sets: sets(intended) }, present).sets)).toBe(expected)
  })

  test('without a base it is the first one, until that is said to be through', () => {
    expect(advanced(undefined, { sets: sets('a 1') }, { sets: sets('a 1') }).first).toBe(true)
    expect(advanced({ sets: sets('') }, { sets: sets('a 1') }, { sets: sets('a 1') }).first).toBeUndefined()
  })
})

test('a state from elsewhere counts where something of it is there, the name servers set aside', () => {
  const state = { sets: sets('a 1, n 1') }
  expect(broughtIn(state, { sets: sets('a 1') }, 'n. 1')).toBe(state)
  for (const there of ['', 'a 2', 'n 1', 'b 1']) expect(broughtIn(state, { sets: sets(there) }, 'n. 1')).toBeUndefined()
})

test('SOA records are compared without their serials', () => {
  const soa = (serial: number, refresh: number): RecordSet => {
    const data = new Uint8Array(22)
    new DataView(data.buffer).setUint32(2, serial)
    new DataView(data.buffer).setUint32(6, refresh)
    return { owner: 'a.', type: 6, ttl: 60, data: [data] }
  }
  expect(sameTimers(soa(1, 7), soa(2, 7))).toBe(true)
  expect(sameTimers(soa(1, 7), soa(1, 8))).toBe(false)
  expect(sameTimers(undefined, undefined)).toBe(false)
})

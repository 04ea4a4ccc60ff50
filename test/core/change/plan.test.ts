import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { differenceIn, type Sets, sameSet, setKey } from '../../../src/core/change/difference.ts'
import { plan } from '../../../src/core/change/plan.ts'
import type { RecordSet } from '../../../src/core/model/zones.ts'

/** `a 7` is the address 192.0.2.7 at a, with a TTL of 60; `a 7/30` one of 30; `a 7,8` two of them. */
const setOf = (text: string): RecordSet => {
  const [owner, rest] = text.split(' ') as [string, string]
  const [values, ttl = '60'] = rest.split('/') as [string, string?]
  return {
    owner: `${owner}.`,
    type: 1,
    ttl: Number(ttl),
    data: values.split(',').map((last) => new Uint8Array([192, 0, 2, Number(last)])),
  }
}
const sets = (...texts: string[]): Sets => new Map(texts.map(setOf).map((set) => [setKey(set), set]))
const textOf = (set: RecordSet | undefined): string =>
  set ? `${set.data.map((each) => each[3]).join(',')}${set.ttl === 60 ? '' : `/${set.ttl}`}` : '-'

describe('what is sent, what stays, and what both changed', () => {
  // base, intended, there now → what becomes of it
  test.each<[string, string | undefined, string, string, string]>([
    ['nothing differs', 'a 1', 'a 1', 'a 1', ''],
    ['we changed it', 'a 1', 'a 2', 'a 1', 'send 1→2'],
    ['we added it', '', 'a 2', '', 'send -→2'],
    ['we removed it', 'a 1', '', 'a 1', 'send 1→-'],
    ['we changed its TTL', 'a 1', 'a 1/30', 'a 1', 'send 1→1/30'],
    ['others changed it', 'a 1', 'a 1', 'a 2', 'stays 1→2'],
    ['others added it', '', '', 'a 2', 'stays -→2'],
    ['others removed it', 'a 1', 'a 1', '', 'stays 1→-'],
    ['both changed it, to the same', 'a 1', 'a 2', 'a 2', ''],
    ['both removed it', 'a 1', '', '', ''],
    ['both changed it', 'a 1', 'a 2', 'a 3', 'conflict 1 3 2'],
    ['we changed what others removed', 'a 1', 'a 2', '', 'conflict 1 - 2'],
    ['we removed what others changed', 'a 1', '', 'a 2', 'conflict 1 2 -'],
    ['both added it, another one', '', 'a 2', 'a 3', 'conflict - 3 2'],
    ['without a base: it differs', undefined, 'a 2', 'a 1', 'send 1→2'],
    ['without a base: it is extra', undefined, '', 'a 1', 'stays -→1'],
  ])('%s', (_what, base, intended, now, expected) => {
    const of = (text: string | undefined): Sets | undefined =>
      text === undefined ? undefined : text ? sets(text) : sets()
    const made = plan(of(base), of(intended)!, of(now)!)
    expect(
      [
        ...made.changes.map(({ before, after }) => `send ${textOf(before)}→${textOf(after)}`),
        ...made.foreign.map(({ was, now: there }) => `stays ${textOf(was)}→${textOf(there)}`),
        ...made.conflicts.map((each) => `conflict ${textOf(each.base)} ${textOf(each.now)} ${textOf(each.intended)}`),
      ].join(),
    ).toBe(expected)
  })

  test.each([
    ['an alias where others have an address', 5, 1],
    ['an address where others have an alias', 1, 5],
    ['a text beside their address', 16, 1],
  ])('%s', (_what, ours, theirs) => {
    const at = (type: number): Sets => {
      const set = { ...setOf('a 1'), type }
      return new Map([[setKey(set), set]])
    }
    const made = plan(sets(), at(ours), at(theirs))
    const count = ours === 16 ? [1, 1, 0] : [1, 0, 1]
    expect([made.changes.length, made.foreign.length, made.conflicts.length]).toEqual(count)
  })

  test('what is extra goes where that is asked for, base or not', () => {
    for (const base of [undefined, sets()])
      expect(plan(base, sets(), sets('a 1'), { removeExtra: true }).changes).toHaveLength(1)
  })

  test('each set is sent, stays, is a conflict, or is as intended; and nothing is lost that only others changed', () => {
    const texts = fc.uniqueArray(fc.constantFrom('a 1', 'a 2', 'b 1', 'b 2/30', 'c 1,2', 'c 2,1', 'c 2'), {
      selector: (text) => text[0],
    })
    fc.assert(
      fc.property(fc.option(texts, { nil: undefined }), texts, texts, (was, wanted, there) => {
        const [base, intended, now] = [was && sets(...was), sets(...wanted), sets(...there)]
        const made = plan(base, intended, now)
        const then = new Map(now)
        for (const { owner, type, after } of made.changes)
          if (after) then.set(setKey({ owner, type }), after)
          else then.delete(setKey({ owner, type }))
        const open = new Set([...made.foreign, ...made.conflicts].map(setKey))
        for (const key of new Set([...intended.keys(), ...now.keys()])) {
          if (open.has(key)) expect(then.get(key)).toBe(now.get(key))
          else expect(sameSet(then.get(key), intended.get(key))).toBe(true)
          if (base && !sameSet(base.get(key), now.get(key))) expect(then.get(key)).toBe(now.get(key))
        }
      }),
    )
  })
})

test.each([
  ['a 1', 'a 1,2', 'changed', ['192.0.2.2'], []],
  ['a 1,2', 'a 3,1/30', 'changed', ['192.0.2.3'], ['192.0.2.2']],
  ['a 1', 'a 1/30', 'ttl', [], []],
  ['', 'a 1', 'added', ['192.0.2.1'], []],
  ['a 1', '', 'removed', [], ['192.0.2.1']],
])('how %s became %s', (was, is, change, missing, extra) => {
  const [before, after] = [was, is].map((text) => (text ? setOf(text) : undefined))
  expect(differenceIn({ owner: 'a.', type: 1, before, after })).toEqual({ change, missing, extra })
})

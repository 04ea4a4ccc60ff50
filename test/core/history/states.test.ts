import { describe, expect, test } from 'vitest'
import { isLikeMoment, statedMoment } from '../../../src/core/history/moment.ts'
import { entriesOf, entryNamed, heldAt, heldBy, neededCopies } from '../../../src/core/history/states.ts'
import { isRefused } from '../../../src/core/result.ts'

const ZONE = 'a.example.'
/** An entry at an hour: `change 3 A→B` changed the zone with the digest A to that with B. */
const line = (text: string, more: object = {}): object => {
  const [what, hour, digests = '→'] = text.split(' ') as [string, string, string?]
  const [was, digest] = digests.split('→') as [string, string]
  return {
    id: `2026-11-20T0${hour}-${what}`,
    at: `2026-11-20T0${hour}:00:00Z`,
    what,
    zone: ZONE,
    sets: [],
    was: was || undefined,
    digest,
    backup: `copy-${hour}`,
    ...more,
  }
}
const hour = (n: number): number => Date.parse('2026-11-20T00:00:00Z') / 1000 + n * 3600

describe('the state at a moment', () => {
  const ADOPTED = [line('adopted 1 →A'), line('change 3 A→B'), line('change 5 B→C')]
  test.each<[string, object[], number, string, string]>([
    ['before it was brought in', ADOPTED, 0.5, 'C', 'refused'],
    ['as it was brought in', ADOPTED, 2, 'C', 'copy of 1-adopted'],
    ['between two changes: the next one kept it', ADOPTED, 4, 'C', 'copy of 5-change'],
    ['after the last change', ADOPTED, 6, 'C', 'present'],
    ['after the last change, and edited since', ADOPTED, 6, 'X', 'after 5-change'],
    ['before the first change that is known', [line('change 3 A→B')], 1, 'B', 'refused'],
    ['at the first change that is known', [line('change 3 A→B')], 3, 'B', 'present'],
    ['nothing is known', [], 1, 'B', 'refused'],
    [
      'a change, then edits by hand, then a change: what the first left is made of it',
      [line('change 1 A→B'), line('edited 4 B→C'), line('change 4 C→D')],
      2,
      'D',
      'after 1-change',
    ],
    [
      'edits count from when they were noticed',
      [line('edited 4 B→C'), line('change 5 C→D')],
      4.5,
      'D',
      'copy of 4-edited',
    ],
    [
      'what was restored kept what stood there',
      [line('change 1 A→B'), line('restored 3 B→A')],
      2,
      'A',
      'copy of 3-restored',
    ],
    ['no backup was kept', [line('change 3 A→B', { backup: null })], 1, 'B', 'refused'],
  ])('%s', (_what, lines, at, digest, expected) => {
    const held = heldAt(entriesOf(lines, ZONE), hour(at), digest)
    const said =
      held === 'present'
        ? held
        : isRefused(held)
          ? 'refused'
          : `${held.side === 'copy' ? 'copy of' : 'after'} ${held.entry.id!.slice(12)}`
    expect(said).toContain(expected)
  })
})

test('entries of a zone and a view; by their ids, or the last part of them', () => {
  const lines = [
    line('change 1 A→B'),
    line('change 2 B→C', { zone: 'b.example.' }),
    line('change 3 B→C', { view: 'inside' }),
    line('change 4', { sets: [{ owner: 7 }] }),
    { at: 'x' },
    'cut off',
    { ...line('confirmation 5'), open: [], counts: {}, vantages: [] },
  ]
  const ids = (...args: Parameters<typeof entriesOf>): unknown[] =>
    entriesOf(...args).map(({ id }) => id?.slice(11, 13))
  expect(ids(lines)).toEqual(['01', '02', '03', '05'])
  expect(ids(lines, 'A.example.', 'outside')).toEqual(['01', '05'])
  const entries = entriesOf(lines)
  expect(entryNamed(entries, 'confirmation')).toBe(lines[6])
  expect(entryNamed(entries, '2026-11-20T01-change')).toBe(lines[0])
  for (const text of ['change', 'nge', 'other']) expect(isRefused(entryNamed(entries, text))).toBe(text !== 'x')
  expect(isRefused(heldBy(entries.at(-1)!))).toBe(true)
})

test('the copies that no limit takes away: what each delivery goes by, too', () => {
  const published = (hour: number, more: object): object =>
    line(`published ${hour}`, { all: true, digest: 'x', ...more })
  const lines = [
    line('adopted 1 →A'),
    published(2, { by: 'file', delivery: 'office' }),
    published(3, { by: 'update', delivery: 'upland' }),
    published(4, { by: 'update', delivery: 'upland' }),
    line('change 5 A→B'),
    line('change 6 B→C'),
  ]
  expect([...new Set(neededCopies(entriesOf(lines)))].sort()).toEqual(['copy-1', 'copy-2', 'copy-4', 'copy-6'])
})

test.each([
  ['2026-11-20', '2026-11-20T00:00:00Z'],
  ['2026-11-20T14:00', '2026-11-20T14:00:00Z'],
  ['2026-11-20 14:00:30.5', '2026-11-20T14:00:30.5Z'],
  ['2026-11-20T14:00+01:00', '2026-11-20T13:00:00Z'],
  ['2024-02-29T23:59Z', '2024-02-29T23:59:00Z'],
  ['2026-02-29', undefined],
  ['2026-11-31T10:00', undefined],
  ['2026-13-01', undefined],
  ['2026-11-20T25:00', undefined],
  ['2026-11-20T14', undefined],
  ['yesterday', undefined],
  ['', undefined],
])('the moment %s', (text, iso) => {
  expect(statedMoment(text)).toBe(iso === undefined ? undefined : Date.parse(iso) / 1000)
})

test('a moment is told from the name of an entry', () => {
  expect(['2026-11-20', '2026-11-31', '2026-11-20T14:00'].every(isLikeMoment)).toBe(true)
  expect(['2026-11-20T14-00-00-000Z-a1b2c3', 'a1b2c3', 'published'].some(isLikeMoment)).toBe(false)
})

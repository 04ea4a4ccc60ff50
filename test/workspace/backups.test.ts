import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { describe, expect, test } from 'vitest'
import { isRefused } from '../../src/core/result.ts'
import { copiesIn, dispensable, packOld, readCopy, removeCopies, sumOf } from '../../src/workspace/backups.ts'
import { folderWith } from '../cli/program.ts'

const nameAt = (day: string): string => `2026-11-${day}T08-00-00-000Z_a.zone`
const at = (day: string): number => Date.parse(`2026-11-${day}T08:00:00Z`) / 1000

describe('a copy is read as it was kept, or it is said why not', () => {
  const whole = Buffer.from('as it was')
  const cut = gzipSync(whole).subarray(0, 20)
  test.each<[string, Record<string, Uint8Array>, Uint8Array | RegExp]>([
    ['plain', { a: whole }, whole],
    ['made small', { 'a.gz': gzipSync(whole) }, whole],
    ['both, since a call was killed in between', { a: whole, 'a.gz': cut }, whole],
    ['changed', { a: Buffer.from('as it is') }, /changed or damaged/],
    ['another one, made small', { 'a.gz': gzipSync(Buffer.from('another')) }, /changed or damaged/],
    ['cut off', { 'a.gz': cut }, /damaged/],
    ['no gzip at all', { 'a.gz': whole }, /damaged/],
    ['gone', {}, /not there/],
  ])('%s', (_what, files, expected) => {
    const read = readCopy(join(folderWith(files), 'a'), sumOf(whole))
    if (expected instanceof RegExp) expect(isRefused(read) && read.refused).toMatch(expected)
    else expect(isRefused(read) ? read.refused : Buffer.from(read)).toEqual(Buffer.from(expected))
  })
})

test('copies of more than a day ago are made small, some at a time, and stay what they are', () => {
  const days = Array.from({ length: 12 }, (_, i) => String(i + 10))
  const folder = folderWith(Object.fromEntries(days.map((day) => [nameAt(day), `zone of ${day}`])))
  packOld(folder, at('21') + 3600)
  expect(copiesIn(folder).filter(({ stored }) => stored.endsWith('.gz'))).toHaveLength(8)
  packOld(folder, at('21') + 3600)
  packOld(folder, at('21') + 3600)
  const copies = copiesIn(folder)
  expect(copies.map(({ stored, path, at }) => [stored === path, at])).toEqual(
    days.toReversed().map((day) => [Number(day) > 20, at(day)]),
  )
  for (const { path, of } of copies) {
    expect(of).toBe('a.zone')
    expect(readCopy(path, sumOf(Buffer.from(`zone of ${path.split('/').at(-1)!.slice(8, 10)}`)))).toBeInstanceOf(
      Uint8Array,
    )
  }
})

describe('which copies need not be kept', () => {
  const copies = ['23', '22', '21', '20'].map((day) => ({
    path: day,
    stored: day,
    at: at(day),
    of: 'a.zone',
    octets: 1,
  }))
  test.each<[object, string[], string[]]>([
    [{}, [], []],
    [{ days: 2 }, [], ['20', '21']],
    [{ copies: 1 }, [], ['20', '21', '22']],
    [{ copies: 3, days: 2 }, [], ['20', '21']],
    [{ copies: 1 }, ['21'], ['20', '22']],
  ])('%o, when %o are needed', (retention, needed, expected) => {
    expect(dispensable(copies, retention, new Set(needed), at('23') + 60).map(({ path }) => path)).toEqual(expected)
  })
})

test('copies are removed in either form', async () => {
  const folder = folderWith({ [nameAt('10')]: 'x', [`${nameAt('10')}.gz`]: 'x', [nameAt('11')]: 'y' })
  await removeCopies(folder, copiesIn(folder).slice(1))
  expect(copiesIn(folder).map(({ of, at: when }) => [of, when])).toEqual([['a.zone', at('11')]])
  expect(existsSync(join(folder, `${nameAt('10')}.gz`))).toBe(false)
})

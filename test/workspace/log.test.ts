import { appendFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { Memory } from '../../src/core/confirm/memory.ts'
import { appendLog, LOG_FILE, readLog } from '../../src/workspace/log.ts'
import { earlierStates } from '../../src/workspace/states.ts'
import { folderWith, HEAD } from '../cli/program.ts'

test('the log: lines are appended; one that was cut off costs none but itself', async () => {
  const folder = folderWith()
  expect(readLog(folder)).toEqual([])
  await appendLog(folder, () => [{ a: 1 }, { b: 2 }])
  appendFileSync(join(folder, LOG_FILE), '{"cut')
  await appendLog(folder, () => [])
  await appendLog(folder, () => [{ c: 3 }])
  expect(readLog(folder)).toEqual([{ a: 1 }, { b: 2 }, { c: 3 }])
  expect(readFileSync(join(folder, LOG_FILE), 'utf8')).toBe('{"a":1}\n{"b":2}\n{"cut\n{"c":3}\n')
})

test('of a long log, the lines of some zones, whole and in their order, wherever it is read in pieces', () => {
  const line = (i: number): object => ({ i, zone: `z${i % 7}.example.`, text: 'x'.repeat((i * 37) % 400) })
  const all = Array.from({ length: 30_000 }, (_, i) => line(i))
  const folder = folderWith({ [LOG_FILE]: `\n${all.map((each) => JSON.stringify(each)).join('\n')}` })
  expect(readFileSync(join(folder, LOG_FILE)).length).toBeGreaterThan(1 << 22)
  expect(readLog(folder)).toEqual(all)
  for (const wanted of [['Z3.example.'], ['z1.example.', 'z5.example.'], ['nobody.example.']])
    expect(readLog(folder, wanted)).toEqual(
      all.filter(({ zone }: any) => wanted.some((each) => each.toLowerCase() === zone)),
    )
})

test('a memory passes over lines that are not of the log', () => {
  const lines: unknown[] = [
    null,
    7,
    'x',
    [],
    {},
    { at: 'never', what: 'published', zone: 'a.', sets: [] },
    { at: '2026-11-23T08:00:00Z', what: 'published', zone: 'a.', sets: [1] },
    { at: '2026-11-23T08:00:00Z', what: 'confirmation', zone: 'a.', open: [{}] },
  ]
  expect(() => new Memory(lines)).not.toThrow()
})

test('since when a vantage says what it says: without a break, and of the names that were asked for', () => {
  const line = (hour: number, about: string | null, verdicts: Record<string, string>, owner = 'www.a.example.') => ({
    at: `2026-11-23T0${hour}:00:00Z`,
    what: 'confirmation',
    zone: 'a.example.',
    about,
    open: Object.keys(verdicts).length === 0 ? [] : [{ owner, type: 'A', status: 'wrong', until: null, verdicts }],
  })
  const question = { owner: 'WWW.a.example.', type: 1, asked: 'www.a.example.' }
  const since = (...lines: object[]): number | undefined => new Memory(lines).since(question, 'v', 'failed')
  const hour = (n: number): number => Date.parse(`2026-11-23T0${n}:00:00Z`) / 1000
  const failed = { v: 'failed' }
  expect(since(line(1, null, failed), line(2, null, failed))).toBe(hour(1))
  expect(since(line(1, null, failed), line(2, null, {}), line(3, null, failed))).toBe(hour(3))
  expect(since(line(1, null, failed), line(2, null, { v: 'absent' }), line(3, null, failed))).toBe(hour(3))
  expect(since(line(1, null, failed), line(2, 'ftp.a.example.', {}))).toBe(hour(1))
  expect(since(line(1, null, failed), line(2, 'www.a.example.', {}))).toBeUndefined()
})

test('earlier states: the copies of that very file, newest first, as far as they are not too many', () => {
  const folder = folderWith({ 'a.zone': HEAD })
  const kept = join(folder, 'backups', 'hollowmere.example')
  mkdirSync(kept, { recursive: true })
  const put = (name: string, text: string): void => writeFileSync(join(kept, name), text)
  put('2026-11-22T08-00-00-000Z_a.zone', `${HEAD}www A 192.0.2.1\n`)
  put('2026-11-23T08-00-00-500Z-2_a.zone', `${HEAD}www A 192.0.2.2\n`)
  put('2026-11-23T09-00-00-000Z_other.zone', HEAD)
  put('notes.txt', 'x')
  const file = { zone: 'hollowmere.example.', file: join(folder, 'a.zone'), octets: new Uint8Array() }
  const { states, more } = earlierStates(folder, file)
  expect([more, states.map(({ until }) => new Date(until * 1000).toISOString())]).toEqual([
    false,
    ['2026-11-23T08:00:00.500Z', '2026-11-22T08:00:00.000Z'],
  ])
  expect(states[0]!.zone.name).toBe('hollowmere.example.')
  for (let i = 0; i < 60; i++) put(`2026-10-01T08-00-${String(i).padStart(2, '0')}-000Z_a.zone`, HEAD)
  const many = earlierStates(folder, file)
  expect([many.more, many.states.length]).toEqual([true, 40])
  expect(earlierStates(folderWith(), file)).toEqual({ states: [], more: false })
})

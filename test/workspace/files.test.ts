import { appendFileSync, existsSync, linkSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { includer, whileLocked, zoneNameFor } from '../../src/workspace/files.ts'
import { findWorkspace, openWorkspace, viewsOf } from '../../src/workspace/workspace.ts'
import { folderWith } from '../cli/program.ts'

const octets = (text: string): Uint8Array => new TextEncoder().encode(text)
const SOA = 'SOA a. b. 1 1 1 1 1\n'

describe('which zone a bare file is for', () => {
  test.each<[string, string, string | undefined, string | RegExp]>([
    ['what is stated comes first', 'lakepass.example.zone', 'hollowmere.example', 'hollowmere.example.'],
    ['stated as people write it', 'x', 'fähre.example', 'xn--fhre-loa.example.'],
    ['stated, but no name', 'x', 'a..b', /a\.\.b is no domain name/],
    ['stated, but not allowed', 'x', '☃.example', /U\+2603/],
    ['the name of the file', 'hollowmere.example.zone', undefined, 'hollowmere.example.'],
    ['in another fashion', 'db.hollowmere.example', undefined, 'hollowmere.example.'],
    ['with another ending', 'hollowmere.example.db', undefined, 'hollowmere.example.'],
    ['one label is not enough', 'db.hollowmere', undefined, /a single label; state the zone/],
    ['no name at all', '.zone', undefined, /nothing says which zone it is for/],
  ])('%s', (_what, file, stated, expected) => {
    if (typeof expected === 'string') expect(zoneNameFor(file, octets(`@ ${SOA}`), stated)).toBe(expected)
    else expect(() => zoneNameFor(file, octets(`@ ${SOA}`), stated)).toThrow(expected)
  })

  test.each<[string, string, string, string | RegExp]>([
    ['the SOA record’s owner', 'x.zone', `lakepass.example. ${SOA}`, 'lakepass.example.'],
    ['completed by $ORIGIN', 'x.zone', `$ORIGIN example.\nlakepass ${SOA}`, 'lakepass.example.'],
    ['an absolute $ORIGIN', 'part', '$ORIGIN lakepass.example.\nwww 1 A 192.0.2.1\n', 'lakepass.example.'],
    [
      '$ORIGIN below the name of the file',
      'lakepass.example.zone',
      '$ORIGIN www.lakepass.example.\n@ 1 A 192.0.2.1\n',
      'www.lakepass.example.',
    ],
    [
      '$ORIGIN and the name of the file differ',
      'lakepass.example.zone',
      '$ORIGIN hollowmere.example.\n',
      /its name says lakepass\.example, its \$ORIGIN says hollowmere\.example/,
    ],
  ])('%s', (_what, file, text, expected) => {
    if (typeof expected === 'string') expect(zoneNameFor(file, octets(text))).toBe(expected)
    else expect(() => zoneNameFor(file, octets(text))).toThrow(expected)
  })
})

describe('files under a lock', () => {
  /** A file as it was read before it is locked. */
  const read = (file: string, text = existsSync(file) ? readFileSync(file) : octets('')) => ({
    file,
    zone: 'a.example.',
    octets: text,
  })

  test('one after the other, each with a copy of what was before', async () => {
    const folder = folderWith({ 'a.zone': 'one' })
    const file = join(folder, 'a.zone')
    const append = (sign: string) =>
      whileLocked(read(file), folder, async ({ octets: now, replace }) => {
        await new Promise((resolve) => setTimeout(resolve, 30))
        return replace(octets(new TextDecoder().decode(now) + sign), [], new Date('2026-11-23T08:00:00Z'))
      })
    await Promise.all([append('-x'), append('-x'), append('-x')])
    expect(readFileSync(file, 'utf8')).toBe('one-x-x-x')
    const copies = readdirSync(join(folder, 'backups/a.example')).sort()
    expect(copies).toEqual([
      '2026-11-23T08-00-00-000Z-2_a.zone',
      '2026-11-23T08-00-00-000Z-3_a.zone',
      '2026-11-23T08-00-00-000Z_a.zone',
    ])
    expect(copies.map((copy) => readFileSync(join(folder, 'backups/a.example', copy), 'utf8')).sort()).toEqual([
      'one',
      'one-x',
      'one-x-x',
    ])
    expect(readdirSync(folder).sort()).toEqual(['a.zone', 'backups'])
  })

  test.each([
    ['a small file', 10],
    ['a large one, kept by another name for it', 2_000_000],
  ])('%s: what is kept stays as it was, whoever writes into the file afterwards', async (_what, size) => {
    const before = 'x'.repeat(size)
    const folder = folderWith({ 'a.zone': before })
    const file = join(folder, 'a.zone')
    const kept = await whileLocked(read(file), folder, ({ replace }) => replace(octets('after'), [], new Date(0)))
    appendFileSync(file, ' and more')
    expect(readFileSync(kept, 'utf8') === before).toBe(true)
    expect(readFileSync(file, 'utf8')).toBe('after and more')
  })

  test('a large file that has another name already is copied', async () => {
    const folder = folderWith({ 'a.zone': 'x'.repeat(2_000_000) })
    linkSync(join(folder, 'a.zone'), join(folder, 'other'))
    const kept = await whileLocked(read(join(folder, 'a.zone')), folder, ({ replace }) =>
      replace(octets('after'), [], new Date(0)),
    )
    writeFileSync(join(folder, 'other'), 'changed')
    expect(readFileSync(kept).length).toBe(2_000_000)
  })

  test.each([
    ['unchanged', 3_000_000, (text: string) => text, true],
    ['longer', 1 << 20, (text: string) => `${text}y`, false],
    ['shorter', 1 << 20, (text: string) => text.slice(1), false],
    ['changed at its end', 3_000_000, (text: string) => `${text.slice(1)}y`, false],
    ['empty now', 10, () => '', false],
  ])('a file that is %s since it was read', async (_what, size, changed, same) => {
    const folder = folderWith({ 'a.zone': 'x'.repeat(size) })
    const before = read(join(folder, 'a.zone'))
    const now = changed('x'.repeat(size))
    writeFileSync(before.file, now)
    const seen = await whileLocked(before, folder, async (locked) => locked.octets)
    expect(seen === before.octets).toBe(same)
    expect(Buffer.compare(seen, octets(now))).toBe(0)
  })

  test('what fails inside leaves the file and gives the lock back', async () => {
    const folder = folderWith({ 'a.zone': 'one' })
    const file = join(folder, 'a.zone')
    await expect(whileLocked(read(file), folder, () => Promise.reject(new Error('inside')))).rejects.toThrow('inside')
    expect(await whileLocked(read(file), folder, async ({ octets: now }) => now.length)).toBe(3)
    await expect(whileLocked(read(join(folder, 'gone')), folder, async () => 1)).rejects.toThrow(
      /cannot write .*gone: there is no such file/,
    )
    writeFileSync(`${file}.jnl`, '')
    await expect(whileLocked(read(file), folder, async () => 1)).rejects.toThrow(/has a journal beside it/)
  })

  test('an included file that somebody changed since it was read is not overwritten', async () => {
    const folder = folderWith({ 'a.zone': 'own', part: 'changed since' })
    const file = join(folder, 'a.zone')
    const write = (before: string) =>
      whileLocked(read(file), folder, ({ replace }) =>
        replace(
          octets('new own'),
          [{ file: join(folder, 'part'), before: octets(before), octets: octets('new part') }],
          new Date(0),
        ),
      )
    await expect(write('as it was read')).rejects.toThrow(/part was changed in the meantime; nothing was written/)
    expect([
      readFileSync(file, 'utf8'),
      readFileSync(join(folder, 'part'), 'utf8'),
      readdirSync(folder).sort(),
    ]).toEqual(['own', 'changed since', ['a.zone', 'part']])
    await write('changed since')
    expect([readFileSync(file, 'utf8'), readFileSync(join(folder, 'part'), 'utf8')]).toEqual(['new own', 'new part'])
  })

  test('includes stay in the folder of the file that names them', () => {
    const folder = folderWith({ 'z/a.zone': '', 'z/parts/p': 'inside', secret: 'outside' })
    const from = join(folder, 'z/a.zone')
    expect(includer(false)('parts/p', from)).toEqual({ file: join(folder, 'z/parts/p'), octets: Buffer.from('inside') })
    expect(includer(false)('../secret', from)).toEqual({ failed: expect.stringContaining('outside the folder') })
    expect(includer(false)(join(folder, 'secret'), from)).toEqual({
      failed: expect.stringContaining('outside the folder'),
    })
    expect(includer(true)('../secret', from)).toEqual({ file: join(folder, 'secret'), octets: Buffer.from('outside') })
    expect(includer(false)('parts', from)).toEqual({ failed: 'it is a folder, not a file' })
  })
})

test('a workspace is found from below, and its files in the order of their names', async () => {
  const folder = folderWith({
    'bramblefront.yaml': 'zones:\n  - zones/*.zone\n  - {file: other/x, zone: x.example, complete: false}\n',
    'zones/b.example.zone': '',
    'zones/a.example.zone': '',
    'other/x': '',
    'deep/er/file': '',
  })
  expect(findWorkspace(join(folder, 'deep/er'))).toBe(folder)
  const { files } = await openWorkspace(folder)
  expect(files.map(({ zone, complete }) => [zone, complete])).toEqual([
    ['a.example.', undefined],
    ['b.example.', undefined],
    ['x.example.', false],
  ])
})

describe('views', () => {
  const file = (name: string, view?: string) => ({
    zone: `${name.replace(/\d/, '')}.example.`,
    file: name,
    octets: new Uint8Array(),
    view,
  })
  const names = (...files: ReturnType<typeof file>[]): string[][] =>
    viewsOf(files).map((view) => view.map((each) => each.file))
  test.each<[string, ReturnType<typeof file>[], string[][]]>([
    ['none', [file('a'), file('b')], [['a', 'b']]],
    [
      'a zone in two, another for everybody',
      [file('a1', 'in'), file('a2', 'out'), file('b')],
      [
        ['a1', 'b'],
        ['a2', 'b'],
      ],
    ],
    [
      'a zone in one, and for all others',
      [file('a1', 'in'), file('a2'), file('b')],
      [
        ['a1', 'b'],
        ['a2', 'b'],
      ],
    ],
    ['everything in one', [file('a', 'in'), file('b', 'in')], [['a', 'b']]],
  ])('%s', (_what, files, expected) => expect(names(...files)).toEqual(expected))
})

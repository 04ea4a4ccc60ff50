import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { includer, readFileOrTrouble, zoneNameFor } from '../../src/workspace/files.ts'
import { findWorkspace, openWorkspace, viewsOf } from '../../src/workspace/workspace.ts'
import { folderWith } from '../cli/program.ts'

const octets = (text: string): Uint8Array => new TextEncoder().encode(text)
const SOA = 'SOA a. b. 1 1 1 1 1\n'

describe('which zone a bare file is for', () => {
  test.each<[string, string, string | undefined, string | RegExp]>([
    ['what is stated comes first', 'lakepass.example.zone', 'hollowmere.example', 'hollowmere.example.'],
    ['stated as people write it', 'x', 'fähre.example', 'xn--fhre-loa.example.'],
    ['stated, but no name', 'x', 'a..b', /a\.\.b” is not a valid domain name/],
    ['stated, but not allowed', 'x', '☃.example', /U\+2603/],
    ['the name of the file', 'hollowmere.example.zone', undefined, 'hollowmere.example.'],
    ['in another fashion', 'db.hollowmere.example', undefined, 'hollowmere.example.'],
    ['with another ending', 'hollowmere.example.db', undefined, 'hollowmere.example.'],
    ['one label is not enough', 'db.hollowmere', undefined, /a single label; name it with --zone/],
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

describe('reading', () => {
  test('what may never end is not read', () => {
    const folder = folderWith({})
    execFileSync('mkfifo', [join(folder, 'pipe')])
    for (const file of [join(folder, 'pipe'), '/dev/zero'])
      expect(() => readFileOrTrouble(file)).toThrow(/not a regular file/)
    expect(includer(true)(join(folder, 'pipe'), join(folder, 'a.zone'))).toEqual({
      failed: expect.stringContaining('not a regular file'),
    })
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

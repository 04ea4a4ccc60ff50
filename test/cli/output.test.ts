import { spawnSync } from 'node:child_process'
import { resolve } from 'node:path'
import { describe, expect, test, vi } from 'vitest'
import { counted, Page } from '../../src/cli/output/page.ts'
import { printable } from '../../src/cli/output/printable.ts'
import { table } from '../../src/cli/output/table.ts'
import { folderWith, HEAD, run } from './program.ts'

function printed(width: number, write: (page: Page) => void): string[] {
  vi.stubEnv('COLUMNS', String(width))
  vi.stubEnv('NO_COLOR', '1')
  const out = vi.spyOn(process.stdout, 'write').mockReturnValue(true)
  try {
    const page = new Page()
    write(page)
    page.print()
    return String(out.mock.calls[0]?.[0] ?? '')
      .split('\n')
      .slice(0, -1)
  } finally {
    out.mockRestore()
    vi.unstubAllEnvs()
  }
}

describe('text from outside is shown, not obeyed', () => {
  test.each([
    ['\u001b[31mred', '\\u{1b}[31mred'],
    ['bell\u0007', 'bell\\u{7}'],
    ['back\u202etxt', 'back\\u{202e}txt'],
    ['c1\u009b', 'c1\\u{9b}'],
    ['a\tb', 'a    b'],
    ['line\nfeed', 'line\nfeed'],
    ['fähre ☃ 例え', 'fähre ☃ 例え'],
    ['hidden\u200b\ufeff', 'hidden\\u{200b}\\u{feff}'],
  ])('%j', (text, shown) => expect(printable(text)).toBe(shown))
})

describe('a page', () => {
  test('breaks text at blanks, each line behind its indent', () => {
    expect(printed(60, (page) => page.text('word '.repeat(20).trim(), '    ', '  * '))).toEqual([
      `  * ${'word '.repeat(11).trim()}`,
      `    ${'word '.repeat(9).trim()}`,
    ])
  })
  test('leaves a word in one piece that is longer than a line', () =>
    expect(printed(60, (page) => page.text(`see ${'x'.repeat(80)}`))).toEqual(['see', 'x'.repeat(80)]))
  test('puts rows in columns', () => {
    expect(
      printed(60, (page) =>
        table(
          page,
          [
            ['a', 'bb', 'ccc'],
            ['dddd', 'e', 'f'],
          ],
          '  ',
        ),
      ),
    ).toEqual(['  a     bb  ccc', '  dddd  e   f'])
  })
  test('breaks long cells, and cuts nothing off', () => {
    const key = 'k'.repeat(150)
    const lines = printed(70, (page) =>
      table(page, [
        ['name', key],
        ['n'.repeat(60), 'short'],
      ]),
    )
    expect(lines.every((line) => line.length <= 70)).toBe(true)
    expect(lines.join('').match(/k/g)).toHaveLength(150)
    expect(lines.join('').match(/n/g)).toHaveLength(61)
  })
  test('has room for signs that are two columns wide', () =>
    expect(
      printed(60, (page) =>
        table(page, [
          ['例え', 'x'],
          ['abcd', 'y'],
        ]),
      ),
    ).toEqual(['例え  x', 'abcd  y']))
  test('an empty table is nothing', () => expect(printed(60, (page) => table(page, []))).toEqual([]))
})

test('numbers with their words', () =>
  expect([counted(1, 'error'), counted(2, 'error'), counted(0, 'entry', 'entries')]).toEqual([
    '1 error',
    '2 errors',
    '0 entries',
  ]))

describe('what programs and spreadsheets read obeys nothing either', () => {
  const SIGNS = '\u001b[31m \u007f \u0085 \u009b \u202e \u2066 \u200b \ufeff'
  const folder = (): string =>
    folderWith({ 'hollowmere.example.zone': `${HEAD}@ TXT "${SIGNS}"\nw${SIGNS.replaceAll(' ', '')} A 192.0.2\n` })
  const OBEYED = /[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069\u200b\ufeff]/
  test.each([
    [['check', 'hollowmere.example.zone']],
    [['check', 'hollowmere.example.zone', '--json']],
    [['check', 'hollowmere.example.zone', '--format', 'sarif']],
    [['show', 'hollowmere.example.zone', '--json']],
    [['check', `no${SIGNS}.zone`]],
    [['show', `--no${SIGNS}`]],
    [[`no${SIGNS}`]],
    [['check', '--only', `mx/${SIGNS}`, 'hollowmere.example.zone']],
  ])('%j', async (args) => {
    const { stdout, stderr } = await run(folder(), ...args)
    expect(stdout + stderr).not.toMatch(OBEYED)
    expect(stdout + stderr).not.toBe('')
    if (args.includes('--json')) JSON.parse(stdout)
  })

  test('a full disk behind standard output is one line', () => {
    const { status, stderr } = spawnSync(
      'sh',
      ['-c', `"${process.execPath}" "${resolve('dist/bramblefront.js')}" show hollowmere.example.zone > /dev/full`],
      {
        cwd: folder(),
        encoding: 'utf8',
      },
    )
    expect([status, stderr.split('\n').filter((line) => line.includes('standard output'))]).toEqual([
      2,
      [expect.stringContaining('the disk is full')],
    ])
    expect(stderr).not.toMatch(/ at |node:/)
  })
})

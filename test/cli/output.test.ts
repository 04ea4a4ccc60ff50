import { describe, expect, test, vi } from 'vitest'
import { counted, Page } from '../../src/cli/output/page.ts'
import { printable } from '../../src/cli/output/printable.ts'
import { table } from '../../src/cli/output/table.ts'

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
  expect([counted(1, 'error'), counted(2, 'error'), counted(0, 'entry', 'entries')]).toEqual(['1 error', '2 errors', '0 entries']))

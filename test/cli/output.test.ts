import { spawnSync } from 'node:child_process'
import { join, resolve } from 'node:path'
import { describe, expect, test, vi } from 'vitest'
import { counted, Page } from '../../src/cli/output/page.ts'
import { table } from '../../src/cli/output/table.ts'
import { printable } from '../../src/core/printable.ts'
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
  const SIGNS = '\u001b[31m \u007f \u0085 \u009b \u00ad \u202e \u2066 \u200b \u200d \u{e0041} \ufe0f \ufeff'
  const JOINED = SIGNS.replaceAll(' ', '')
  /** What is obeyed, or not seen: controls, formats, separators, and whatever a terminal may leave out. */
  const OBEYED = /[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Default_Ignorable_Code_Point}]/u
  const ZONE_TEXT = `${HEAD}@ TXT "${SIGNS}"\nw${JOINED} A 192.0.2\n`
  const FILES = {
    'hollowmere.example.zone': ZONE_TEXT,
    [`odd${JOINED}.zone`]: ZONE_TEXT,
    'pasted.txt': `Type\tHost\tValue\nTXT\tnew${JOINED}\t${SIGNS}\nA\tlake\t192.0.2.${JOINED}\nTXT\t{{${JOINED}}}\tx\n`,
    'yaml/bramblefront.yaml': `zones: [{zone: hollowmere.example, file: "odd${JOINED.replace('\u001b', '\\e').replace('\u007f', '').replace('\u0085', '').replace('\u009b', '').replace('\ufeff', '')}.zone"}]\n`,
    'key/bramblefront.yaml': `zones: ["*.zone"]\nun\u200bknown\u202e: 1\n`,
    'value/bramblefront.yaml': `zones: ["*.zone"]\nexceptions: [{rule: "mx/\u200b\u202e", reason: "\u{e0041}"}]\n`,
    'sheet/bramblefront.yaml': `zones: [{zone: hollowmere.example, file: z.zone, sheet: "a\u200b"}]\nsheets: [{label: "a\u200b", labels: {type: "T\u202e", owner: "\u{e0041}", value: V}}]\n`,
    'sheet/z.zone': `${HEAD}@ TXT "x"\n`,
    'ws/bramblefront.yaml': 'zones: ["*.zone"]\n',
    [`ws/odd${JOINED}.zone`]: `$ORIGIN hollowmere.example.\n${HEAD}@ TXT "${SIGNS}"\n`,
    'ws/other.example.zone': `${HEAD}@ TXT "x"\n`,
  }
  test.each([
    ['.', 'check', 'hollowmere.example.zone'],
    ['.', 'check', 'hollowmere.example.zone', '--json'],
    ['.', 'check', 'hollowmere.example.zone', '--format', 'sarif'],
    ['.', 'check', 'hollowmere.example.zone', '--format', 'csv'],
    ['.', 'show', 'hollowmere.example.zone', '--json'],
    ['.', 'show', 'hollowmere.example.zone'],
    ['.', 'check', `odd${JOINED}.zone`],
    ['.', 'check', `odd${JOINED}.zone`, '--json'],
    ['.', 'check', `odd${JOINED}.zone`, '--format', 'csv'],
    ['.', 'show', `odd${JOINED}.zone`],
    ['.', 'check', `no${SIGNS}.zone`],
    ['.', 'show', `--no${SIGNS}`],
    ['.', `no${SIGNS}`],
    ['.', 'help', `no${SIGNS}`],
    ['.', 'explain', `mx/${SIGNS}`],
    ['.', 'check', '--only', `mx/${SIGNS}`, 'hollowmere.example.zone'],
    ['.', 'transcribe', 'pasted.txt', '--into', 'hollowmere.example', '--file', 'hollowmere.example.zone'],
    ['.', 'transcribe', 'pasted.txt', '--into', 'hollowmere.example', '--file', 'hollowmere.example.zone', '--json'],
    ['.', 'adopt', 'pasted.txt', '--zone', 'new.example', '--dry-run'],
    ['.', 'write', 'txt', `w${JOINED}.hollowmere.example`, SIGNS, '--file', `odd${JOINED}.zone`],
    ['.', 'write', 'txt', 'w.hollowmere.example', SIGNS, '--file', `odd${JOINED}.zone`, '--dry-run'],
    ['.', 'write', 'txt', 'w.hollowmere.example', SIGNS, '--file', `odd${JOINED}.zone`, '--json', '--dry-run'],
    ['.', 'init', '--zone', `z${JOINED}.example`],
    ['.', 'sender', `a${JOINED}@hollowmere.example`, '--offline', 'hollowmere.example.zone'],
    ['.', 'recipe', 'show', `no${JOINED}`],
    ['yaml', 'check'],
    ['yaml', 'check', '--json'],
    ['key', 'check'],
    ['key', 'show'],
    ['value', 'check'],
    ['sheet', 'sheet', 'hollowmere.example'],
    ['sheet', 'sheet', 'hollowmere.example', '--json'],
    ['ws', 'check'],
    ['ws', 'check', '--json'],
    ['ws', 'show', 'hollowmere.example'],
    ['ws', 'write', 'txt', 'w.hollowmere.example', SIGNS],
    ['ws', 'history', `odd${JOINED}`],
    ['ws', 'recipe', 'write', 'no-mail', 'hollowmere.example', '--fill', `a${JOINED}=b`],
    ['ws', 'diff', 'hollowmere.example', '--with', `odd${JOINED}.zone`],
    ['ws', 'diff', 'hollowmere.example', '--with', 'other.example.zone', '--json'],
    ['ws', 'publish', 'hollowmere.example', '--to', `a${JOINED}`],
    ['ws', 'timing', `w${JOINED}.hollowmere.example`],
    ['ws', 'follow', `w${JOINED}.hollowmere.example`, `t${JOINED}.example`],
  ])('in %s: %j %j %j', async (below, ...args) => {
    const { stdout, stderr } = await run(join(folderWith(FILES), below), ...args)
    const printed = (stdout + stderr).replaceAll('\n', '')
    expect(printed.match(OBEYED)?.[0]?.codePointAt(0)?.toString(16)).toBeUndefined()
    expect(printed).not.toBe('')
    if (args.includes('--json') && stdout !== '') JSON.parse(stdout)
  })

  test('a full disk behind standard output is one line', () => {
    const { status, stderr } = spawnSync(
      'sh',
      ['-c', `"${process.execPath}" "${resolve('dist/bramblefront.js')}" show hollowmere.example.zone > /dev/full`],
      {
        cwd: folderWith(FILES),
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

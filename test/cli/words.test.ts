/** Words as people type them, and what a call says that cannot use them. */
import { describe, expect, test } from 'vitest'
import { typedTtl } from '../../src/core/records/ttl.ts'
import { folderWith, HEAD, run, runWith } from './program.ts'

const FILES = {
  'bramblefront.yaml': 'zones: ["*.zone"]\n',
  'hollowmere.example.zone': `${HEAD}@ A 192.0.2.80\n@ MX 20 mail\n@ MX 10 mx1.larkpost.example.\nmail A 192.0.2.25\nwww CNAME mail\n@ TXT "v=spf1 include:a.example -all"\n@ TXT "v=spf1 include:b.example -all"\n`,
}
const workspace = (): string => folderWith(FILES)

describe('times', () => {
  test.each([
    ['3600', 3600],
    ['1h30m', 5400],
    ['1hour', 3600],
    ['2 hours', 7200],
    ['5min', 300],
    ['90 seconds', 90],
    ['1.5h', 5400],
    ['1w 2days', 777_600],
    ['4294967295', 4_294_967_295],
    ['4294967296', -1],
    ['1 fortnight', -1],
    ['h', -1],
    ['1.2.3h', -1],
    ['-5m', -1],
    ['1h 30', -1],
    ['', -1],
  ])('%j', (text, seconds) => expect(typedTtl(text)).toBe(seconds))
})

describe('a call that cannot be used says what would', () => {
  test.each([
    [['help', 'nosuch'], 2, /no command nosuch/],
    [['write', 'a', 'www.hollowmere.example', '192.0.2.1'], 2, /bramblefront write address/],
    [['write', 'caa', 'hollowmere.example', 'x'], 2, /bramblefront write record NAME CAA VALUE/],
    [['recipe', 'show', 'park'], 2, /did you mean parked\? All/],
    [['timing', 'www.hollowmere.example'], 2, /bramblefront timing hollowmere\.example www/],
    [['confirm', 'hollowmere.example', '--at', '127.0.0.1:1', '--timeout', '0'], 2, /above 0/],
  ])('%j', async (args, status, says) => {
    const ran = await run(workspace(), ...args)
    expect([ran.status, ran.stderr]).toEqual([status, expect.stringMatching(says)])
  })
})

test('commands and types are the same in any case', async () => {
  const small = await run(workspace(), 'write', 'mx', 'hollowmere.example', '10 mail', '--dry-run', '--json')
  const large = await run(workspace(), 'WRITE', 'MX', 'hollowmere.example', '10 mail', '--dry-run', '--json')
  expect([large.status, large.json().sets]).toEqual([0, small.json().sets])
})

test.each(['crew@hollowmere.example', 'https://www.hollowmere.example/timetable'])(
  '%s leads somewhere',
  async (word) => {
    const ran = await run(workspace(), 'show', word)
    expect([ran.status, ran.stdout]).toEqual([0, expect.stringContaining('hollowmere.example  serial')])
    expect((await run(workspace(), 'check', word)).stderr).toBe('')
  },
)

test('what is shown is in the order of its use, each SPF record by its text, and names outside are looked up where that is asked for', async () => {
  const { stdout } = await run(workspace(), 'show', 'hollowmere.example')
  expect(stdout.indexOf('10 mx1.larkpost')).toBeLessThan(stdout.indexOf('20 mail'))
  for (const name of ['a', 'b']) expect(stdout).toContain(`by v=spf1 include:${name}.example -all:`)
  expect(stdout).toMatch(/mx1\.larkpost\.example\. +outside your zones\n/)
  const asked = await run(workspace(), 'show', 'hollowmere.example', '--at', '127.0.0.1:1', '--timeout', '0.5')
  expect(asked.stdout).toMatch(/mx1\.larkpost\.example\. +outside your zones: no answer/)
})

test('an address where a name must stand: the name that has it', async () => {
  const { stdout } = await run(workspace(), 'write', 'mx', 'hollowmere.example', '10 192.0.2.25')
  expect(stdout).toContain('hollowmere.example. MX 10 mail.hollowmere.example.')
  const none = await run(workspace(), 'write', 'mx', 'hollowmere.example', '10 192.0.2.99')
  expect(none.stdout).toContain('HOST.hollowmere.example. A 192.0.2.99')
})

test('what a change is refused for comes first', async () => {
  const { stdout } = await run(workspace(), 'write', 'cname', 'mail.hollowmere.example', 'www', '--replace')
  const severities = stdout.match(/^(?:error|warning|advice)/gm)!
  expect(severities.length).toBeGreaterThan(1)
  expect(severities).toEqual(
    [...severities].sort((a, b) => 'error warning advice'.indexOf(a) - 'error warning advice'.indexOf(b)),
  )
})

test('the timing of an alias is that of its record', async () => {
  const ran = await run(workspace(), 'timing', 'hollowmere.example', 'www', 'a')
  expect([ran.status, ran.stdout]).toEqual([
    0,
    expect.stringMatching(/alias[\s\S]*www\.hollowmere\.example\. CNAME has TTL/),
  ])
})

test('a parenthesis that is never closed is one finding', async () => {
  const folder = folderWith({
    'z.example.zone':
      '$TTL 60\n@ SOA ns1 h ( 1 2 3\n  4 5\n  6 7\n@ NS ns1\n@ NS ns2.example.\nns1 A 203.0.113.1\n  BAD\n',
  })
  const { findings } = (await run(folder, 'check', 'z.example.zone', '--json', '--severity', 'error')).json()
  // What is wrong behind it, at a name of its own, is still told.
  expect(findings.map(({ rule, line }: { rule: string; line: number }) => `${rule} ${line}`)).toEqual([
    'file/parenthesis 2',
    'file/unknown-type 8',
  ])
})

test('what an entry that is never closed was meant to be is not missing besides, whatever its owner is called', async () => {
  const text = '$TTL 60\n$ORIGIN x.example.\na SOA ns1.a h.a ( 1 2 3\na NS ns1.a\nns1.a A 203.0.113.1\n'
  const folder = folderWith({ 'a.zone': text })
  const { findings } = (
    await run(folder, 'check', 'a.zone', '--zone', 'a.x.example', '--json', '--severity', 'error')
  ).json()
  expect(findings.map(({ rule }: { rule: string }) => rule)).toEqual(['file/parenthesis'])
})

test('with --json, a call that ends with 1 prints a document', async () => {
  const folder = workspace()
  await run(folder, 'write', 'dkim', 'hollowmere.example', '--selector', 's1')
  await run(folder, 'write', 'dkim', 'hollowmere.example', '--rotate')
  const ran = await run(folder, 'write', 'dkim', 'hollowmere.example', '--selector', 's1', '--revoke', '--json')
  expect([ran.status, ran.json()]).toEqual([1, { format: 1, problem: expect.stringContaining('too early'), status: 1 }])
})

test.each(['60', '80'])('in %s columns nothing is wider, and no name is broken', async (width) => {
  for (const args of [
    ['show', 'hollowmere.example'],
    ['recipe', 'show', 'mail-host'],
    ['timing', 'hollowmere.example'],
  ]) {
    const { stdout } = await runWith(workspace(), { COLUMNS: width }, ...args)
    // A command stands in one piece, so that it can be copied.
    const lines = stdout.split('\n').filter((line) => !line.startsWith('bramblefront '))
    expect(lines.filter((line) => [...line].length > Number(width))).toEqual([])
  }
  const { stdout } = await runWith(workspace(), { COLUMNS: width }, 'show', 'hollowmere.example')
  expect(stdout).toContain('mx1.larkpost.example.')
})

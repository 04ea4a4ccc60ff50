/** From an alias to addresses and back, in one change, whichever command makes it. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'
import { atTerminal } from './terminal.ts'

const workspace = (): string =>
  folderWith({
    'bramblefront.yaml': 'zones: [zones/*.zone]\n',
    'zones/hollowmere.example.zone': `${HEAD}@ A 192.0.2.80\n@ MX 10 mx.larkpost.example.\nmail CNAME @\nwww A 192.0.2.7\n`,
    // Its mail goes to the alias: neither can be changed without the other.
    'zones/lakepass.example.zone': `${HEAD}@ MX 10 mail.hollowmere.example.\n`,
    'list.txt': 'A mail 192.0.2.25\n',
  })
const zone = (folder: string): string => readFileSync(join(folder, 'zones/hollowmere.example.zone'), 'utf8')

describe('what cannot stand beside it', () => {
  test.each([
    ['write', ['write', 'address', 'mail.hollowmere.example', '192.0.2.25']],
    ['transcribe', ['transcribe', 'list.txt', '--into', 'hollowmere.example', '--yes']],
  ])('%s refuses, names the way, and takes it', async (_what, args) => {
    const folder = workspace()
    const refused = await run(folder, ...args)
    expect([refused.status, refused.stdout]).toEqual([1, expect.stringContaining('--replace')])
    expect(zone(folder)).toContain('mail CNAME')
    const done = await run(folder, ...args, '--replace')
    expect([done.status, done.stderr]).toEqual([0, ''])
    expect(zone(folder)).toMatch(/^mail +A +192\.0\.2\.25$/m)
    expect(zone(folder)).not.toContain('mail CNAME')
  })

  test('back to an alias, and back again', async () => {
    const folder = workspace()
    await run(folder, 'write', 'address', 'mail.hollowmere.example', '192.0.2.25', '--replace')
    const alias = ['write', 'cname', 'www.hollowmere.example', 'hollowmere.example.']
    expect((await run(folder, ...alias)).status).toBe(1)
    expect((await run(folder, ...alias, '--replace')).status).toBe(0)
    expect(zone(folder)).not.toMatch(/^www +A/m)
    const { entries } = (await run(folder, 'history', 'hollowmere.example', '--json')).json()
    const back = ['restore', 'hollowmere.example', 'www', 'A', '--from', entries[0].id, '--yes']
    expect((await run(folder, ...back)).status).toBe(1)
    expect((await run(folder, ...back, '--replace')).status).toBe(0)
    expect(zone(folder)).toMatch(/^www +A +192\.0\.2\.7$/m)
    expect(zone(folder)).not.toContain('www CNAME')
  })

  test('what the whole would break is refused with it', async () => {
    const folder = workspace()
    await run(folder, 'write', 'address', 'mail.hollowmere.example', '192.0.2.25', '--replace')
    const { status, stdout } = await run(folder, 'write', 'cname', 'mail.hollowmere.example', 'www', '--replace')
    expect([status, stdout]).toEqual([1, expect.stringContaining('mx/target-is-alias')])
    expect(zone(folder)).not.toContain('mail CNAME')
  })

  test.each([
    ['y', /^mail +A +192/m],
    ['n', /^mail CNAME/m],
  ])('is asked at a terminal: %s', async (answer, expected) => {
    const folder = workspace()
    const { shown } = await atTerminal(folder, ['write', 'address', 'mail.hollowmere.example', '192.0.2.25'], [answer])
    expect(shown).toContain('mail.hollowmere.example has CNAME hollowmere.example.')
    expect(zone(folder)).toMatch(expected)
  })
})

test('a mail host is proposed that is free, without the address of the web site', async () => {
  for (const [more, expected] of [
    ['', ['mail.hollowmere.example. A ADDRESS', 'hollowmere.example. MX 10 mail.hollowmere.example.']],
    ['mail CNAME @\n', ['mx.hollowmere.example. A ADDRESS', 'hollowmere.example. MX 10 mx.hollowmere.example.']],
    ['mail A 192.0.2.25\n', ['hollowmere.example. MX 10 mail.hollowmere.example.']],
  ] as const) {
    const folder = folderWith({ 'hollowmere.example.zone': `${HEAD}@ A 192.0.2.80\n@ MX 10 @\n${more}` })
    const { findings } = (await run(folder, 'check', 'hollowmere.example.zone', '--json')).json()
    expect(findings.find(({ rule }: { rule: string }) => rule === 'mx/target-follows-apex').fix).toEqual(expected)
  }
})

import { mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'

const read = (folder: string, file: string): string => readFileSync(join(folder, file), 'utf8')
const ZONES = {
  'bramblefront.yaml': 'zones: [zones/*.zone]\n',
  'zones/hollowmere.example.zone': `${HEAD}$INCLUDE parts/hosts lake\n$INCLUDE parts/proofs\nend A 192.0.2.9\n`,
  'zones/lakepass.example.zone': `${HEAD}$INCLUDE parts/proofs\n`,
  'zones/parts/hosts': 'www A 192.0.2.10\n    AAAA 2001:db8::10\n',
  'zones/parts/proofs': '@ TXT "shared"\n',
}

describe('$INCLUDE', () => {
  test('is read with its origin, shown with its places, and edited where the set stands', async () => {
    const folder = folderWith(ZONES)
    const sets = (await run(folder, 'show', 'hollowmere.example', '--json')).json().sets
    expect(sets.map((each: any) => `${each.owner} ${each.type} ${each.line}`)).toEqual([
      'hollowmere.example. SOA 2',
      'hollowmere.example. NS 3',
      'www.lake.hollowmere.example. A 1',
      'www.lake.hollowmere.example. AAAA 2',
      'hollowmere.example. TXT 1',
      'end.hollowmere.example. A 7',
    ])
    const before = read(folder, 'zones/hollowmere.example.zone')
    const { status, stdout } = await run(
      folder,
      'write',
      'address',
      'www.lake.hollowmere.example',
      '192.0.2.11',
      '192.0.2.12',
    )
    expect([status, stdout]).toEqual([0, expect.stringContaining('zones/parts/hosts')])
    expect(read(folder, 'zones/parts/hosts')).toBe('www A 192.0.2.11\nwww A 192.0.2.12\n    AAAA 2001:db8::10\n')
    expect(read(folder, 'zones/hollowmere.example.zone').replace(/20261123\d\d|\d{10}/, '2026010101')).toBe(before)
  })

  test('one that other zones include too is changed only when that is said', async () => {
    const folder = folderWith(ZONES)
    const refused = await run(folder, 'write', 'txt', 'hollowmere.example', '--replace', 'mine')
    expect([refused.status, refused.stderr]).toEqual([
      2,
      expect.stringContaining('which lakepass.example includes, too'),
    ])
    expect(read(folder, 'zones/parts/proofs')).toBe('@ TXT "shared"\n')
    expect((await run(folder, 'write', 'txt', 'hollowmere.example', '--replace', 'ours', '--force')).status).toBe(0)
    expect(read(folder, 'zones/parts/proofs')).toBe('@ TXT "ours"\n')
  })

  test.each([
    ['outside the folder', '$INCLUDE ../secret', /is outside the folder/],
    ['outside it through a link', '$INCLUDE link', /is outside the folder/],
    ['missing', '$INCLUDE gone', /cannot include gone: no such file/],
    ['itself', '$INCLUDE hollowmere.example.zone', /includes itself/],
    ['in a circle', '$INCLUDE one', /includes itself/],
    ['without a file', '$INCLUDE', /the file is missing/],
  ])('%s is a finding', async (_what, line, message) => {
    const folder = folderWith({
      secret: 'a A 192.0.2.1\n',
      'z/one': '$INCLUDE two\n',
      'z/two': '$INCLUDE one\n',
      'z/hollowmere.example.zone': `${HEAD}${line}\nend CNAME gone\n`,
    })
    symlinkSync('../secret', join(folder, 'z/link'))
    const { findings } = (await run(folder, 'check', 'z/hollowmere.example.zone', '--json')).json()
    expect(findings.map((each: any) => each.message).join('\n')).toMatch(message)
    expect(findings.map((each: any) => each.rule)).toContain('cname/target-missing')
    expect(findings.length).toBeLessThan(4)
  })

  test('--include-anywhere reads it, and a hundred deep is too deep', async () => {
    const folder = folderWith({ secret: 'a A 192.0.2.1\n', 'z/hollowmere.example.zone': `${HEAD}$INCLUDE ../secret\n` })
    expect((await run(folder, 'check', 'z/hollowmere.example.zone', '--include-anywhere')).status).toBe(0)
    mkdirSync(join(folder, 'deep'))
    for (let i = 0; i < 100; i++) writeFileSync(join(folder, 'deep', `${i}`), `$INCLUDE ${i + 1}\n`)
    writeFileSync(join(folder, 'deep/hollowmere.example.zone'), `${HEAD}$INCLUDE 0\n`)
    expect(
      (await run(folder, 'check', 'deep/hollowmere.example.zone', '--only', 'file', '--json')).json().findings,
    ).toEqual([
      expect.objectContaining({ rule: 'file/include', message: expect.stringContaining('more than 16 deep') }),
    ])
  })
})

test('$GENERATE makes records; they are checked, shown, and not edited', async () => {
  const folder = folderWith({
    'hollowmere.example.zone': `${HEAD}$GENERATE 1-3 host$ A 192.0.2.$\n$GENERATE 10-30/10 x\${-5,4,x} CNAME host\${-9}\n$GENERATE 0-1 mx 300 MX "1$ host\\$"\n`,
  })
  const show = (await run(folder, 'show', 'hollowmere.example.zone', '--json')).json().sets.slice(2)
  expect(show.map((each: any) => `${each.owner} ${each.ttl} ${each.type} ${each.records}`)).toEqual([
    'host1.hollowmere.example. 3600 A 192.0.2.1',
    'host2.hollowmere.example. 3600 A 192.0.2.2',
    'host3.hollowmere.example. 3600 A 192.0.2.3',
    'x0005.hollowmere.example. 3600 CNAME host1.hollowmere.example.',
    'x000f.hollowmere.example. 3600 CNAME host11.hollowmere.example.',
    'x0019.hollowmere.example. 3600 CNAME host21.hollowmere.example.',
    'mx.hollowmere.example. 300 MX 10 host\\$.hollowmere.example.,11 host\\$.hollowmere.example.',
  ])
  const { findings } = (await run(folder, 'check', 'hollowmere.example.zone', '--json')).json()
  expect(findings.map((each: any) => `${each.rule} ${each.line}`)).toContain('cname/target-missing 6')
  expect(
    await run(folder, 'write', 'address', 'host2', '192.0.2.9', '--file', 'hollowmere.example.zone'),
  ).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('is made by $GENERATE at line 5'),
  })
})

describe('remove and adopt', () => {
  const files = {
    'bramblefront.yaml': 'zones: [zones/*.zone]\n',
    'zones/hollowmere.example.zone': `${HEAD}www A 192.0.2.1\n    A 192.0.2.2\n    TXT "x"\nend A 192.0.2.9\n`,
  }
  test.each<[string[], string]>([
    [['www', 'A'], 'www TXT "x"\nend A 192.0.2.9\n'],
    [['www.hollowmere.example', 'A', '192.0.2.1'], 'www A 192.0.2.2\n    TXT "x"\nend A 192.0.2.9\n'],
    [['www', '--all'], 'end A 192.0.2.9\n'],
  ])('remove %s', async (args, after) => {
    const folder = folderWith(files)
    expect((await run(folder, 'remove', ...args)).status).toBe(0)
    expect(read(folder, 'zones/hollowmere.example.zone').split('\n').slice(4).join('\n')).toBe(after)
  })
  test.each<[string[], RegExp]>([
    [['www'], /give a type, or --all/],
    [['www', 'MX'], /has no MX to remove; it has: A, TXT/],
    [['www', 'A', '192.0.2.3'], /has no A 192\.0\.2\.3 to remove; it has: 192\.0\.2\.1, 192\.0\.2\.2/],
    [['gone', '--all'], /has nothing to remove/],
  ])('remove %s is refused', async (args, message) =>
    expect(await run(folderWith(files), 'remove', ...args)).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(message),
    }),
  )

  test('a removal that others depend on is refused', async () => {
    const folder = folderWith({ ...files, 'zones/lakepass.example.zone': `${HEAD}@ MX 10 end.hollowmere.example.\n` })
    expect(await run(folder, 'remove', 'end.hollowmere.example', 'A')).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('mx/target-without-address'),
    })
  })

  test('adopt copies a file and what it includes, to the last octet, once', async () => {
    const text = `${HEAD.replaceAll('\n', '\r\n')}$INCLUDE parts/hosts\r\n`
    const folder = folderWith({
      'bramblefront.yaml': 'zones: [zones/*.zone]\n',
      'old/db.lakepass.example': text,
      'old/parts/hosts': 'www A 192.0.2.1',
    })
    expect(await run(folder, 'adopt', 'old/db.lakepass.example')).toMatchObject({
      status: 0,
      stdout: expect.stringContaining(
        'lakepass.example: 4 records, now in zones/lakepass.example.zone, zones/parts/hosts',
      ),
    })
    expect([read(folder, 'zones/lakepass.example.zone'), read(folder, 'zones/parts/hosts')]).toEqual([
      text,
      'www A 192.0.2.1',
    ])
    expect(await run(folder, 'adopt', 'old/db.lakepass.example')).toMatchObject({
      status: 0,
      stdout: expect.stringContaining('unchanged'),
    })
    writeFileSync(join(folder, 'old/db.lakepass.example'), `${text}ftp A 192.0.2.9\r\n`)
    expect(await run(folder, 'adopt', 'old/db.lakepass.example')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('is already in your workspace'),
    })
  })
})

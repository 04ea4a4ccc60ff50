/** `sheet` as people call it: what to type, and what of it is still to be done. */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'
import { atTerminal } from './terminal.ts'
import { world, ZONE } from './world.ts'

const LINES =
  'www A 192.0.2.10\n_imaps._tcp SRV 0 1 993 mail\nmail A 192.0.2.25\n@ MX 10 mail\n@ TXT "v=spf1 mx -all"\nkey._domainkey TXT "v=DKIM1; " "p="\n'
const FILE = `zones/${ZONE}.zone`

test('what it prints, heading, hints and all, is read by transcribe as the zone has it', async () => {
  const here = folderWith({ 'a.zone': HEAD + LINES, 'empty.zone': HEAD })
  for (const style of ['short', 'full-names', 'zone-file', 'no-ttl', 'blank-apex']) {
    const printed = await run(here, 'sheet', 'a.zone', '--zone', ZONE, '--style', style)
    expect(printed.status).toBe(0)
    writeFileSync(join(here, 'sheet.txt'), printed.stdout)
    const call = ['transcribe', 'sheet.txt', '--file', 'empty.zone', '--zone', ZONE, '--dry-run', '--json']
    const read = (await run(here, ...call)).json()
    expect([style, read.unread, read.blanks, read.rows.length]).toEqual([style, [], [], 6])
  }
})

test('what differs from what the servers answer: entered, changed, deleted; and nothing once it is typed', async () => {
  const { folder, load } = await world(`${LINES}old A 192.0.2.9\n`, ['authoritative'])
  const call = ['sheet', ZONE, '--changes', '--timeout', '1', '--json']
  expect(await run(folder, ...call)).toMatchObject({ status: 0 })
  for (const args of [
    ['write', 'address', 'www', '192.0.2.11'],
    ['write', 'cname', 'shop', 'site.northlight.example.'],
    ['remove', 'old', 'A'],
  ])
    expect(await run(folder, ...args)).toMatchObject({ status: 0 })
  const ran = await run(folder, ...call)
  const rows = ran
    .json()
    .rows.map(({ action, owner, type, before, fields }: any) => [
      action,
      owner.replace(`.${ZONE}.`, ''),
      type,
      before,
      fields.find(({ label }: any) => label === 'Value').value,
    ])
  expect([ran.status, rows.sort()]).toEqual([
    1,
    [
      ['change', 'www', 'A', ['192.0.2.10'], '192.0.2.11'],
      ['delete', 'old', 'A', ['192.0.2.9'], '192.0.2.9'],
      ['enter', 'shop', 'CNAME', null, 'site.northlight.example'],
    ],
  ])
  // The host keeps no TTL below five minutes, and splits texts elsewhere.
  const typed = readFileSync(join(folder, FILE), 'utf8')
    .replace('$TTL 3600', '$TTL 300')
    .replace('"v=DKIM1; " "p="', '"v=DKIM1; p="')
  for (const address of ['198.51.100.53', '203.0.113.53']) load(address, typed)
  expect((await run(folder, ...call)).json().rows.length).toBeGreaterThan(0)
  expect(await run(folder, ...call, '--style', 'no-ttl')).toMatchObject({ status: 0 })
})

test('where nobody answers, nothing is claimed', async () => {
  const here = folderWith({
    'bramblefront.yaml':
      'zones: [zones/*.zone]\nservers:\n  - {name: ns1.upland-dns.example, address: 127.0.0.1, port: 1}\n  - {name: ns2.upland-dns.example, address: 127.0.0.1, port: 1}\n',
    [FILE]: HEAD + LINES,
  })
  const ran = await run(here, 'sheet', ZONE, '--changes', '--timeout', '1')
  expect([ran.status, ran.stdout]).toEqual([3, expect.stringContaining('Nobody could be asked')])
})

test('a style of one’s own, by the zone’s entry', async () => {
  const here = folderWith({
    'bramblefront.yaml': `zones:\n  - {zone: ${ZONE}, file: ${FILE}, sheet: mine}\nsheets:\n  - {label: mine, apex: full, final-dot: true, ttl: minutes, ttl-floor: 2h, labels: {owner: Name of the record}}\n`,
    [FILE]: HEAD + LINES,
    [`before/${ZONE}.zone`]: HEAD + LINES,
  })
  const ran = await run(here, 'sheet', ZONE, '@', '--json')
  expect([ran.json().style, ran.json().rows.find(({ type }: any) => type === 'MX').fields]).toEqual([
    'mine',
    [
      { label: 'Type', value: 'MX' },
      { label: 'Name of the record', value: `${ZONE}.` },
      { label: 'Preference', value: '10' },
      { label: 'Value', value: `mail.${ZONE}.` },
      { label: 'TTL', value: '120' },
    ],
  ])
  // The host numbers the zone: its serial here says nothing.
  expect(await run(here, 'write', 'address', 'www', '192.0.2.11')).toMatchObject({ status: 0 })
  expect(readFileSync(join(here, FILE), 'utf8')).toContain('2026010101')
  expect((await run(here, 'check', '--published', 'before', '--only', 'soa')).stdout).not.toContain('serial')
  expect(await run(here, 'sheet', ZONE, '--style', 'mien')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('did you mean mine'),
  })
  expect(await run(here, 'sheet', ZONE, 'nothere')).toMatchObject({ status: 2 })
})

test('row by row at a terminal: typed wrong and told why, corrected, left and taken up again', async () => {
  const { folder, load, published } = await world('www A 192.0.2.10\n', ['authoritative'])
  const both = (text: string): void => ['198.51.100.53', '203.0.113.53'].forEach((each) => void load(each, text))
  await run(folder, 'write', 'address', 'pier', '192.0.2.41')
  await run(folder, 'write', 'cname', 'shop', 'www')
  const right = readFileSync(join(folder, FILE), 'utf8')
  const first = await atTerminal(
    folder,
    ['sheet', ZONE, '--tick', '--style', 'full-names'],
    [
      // The form appends the zone’s name to the full one.
      () => {
        both(right.replace(/^pier /m, `pier.${ZONE} `).replace(/^shop .*\n/m, ''))
        return ''
      },
      () => {
        both(right.replace(/^shop .*\n/m, ''))
        return ''
      },
      'q',
    ],
  )
  expect(first.status).toBe(1)
  for (const said of [
    '1 of 3 record sets ticked off',
    'Row 1 of 2',
    'appears twice',
    'ticked off  as intended',
    '2 of 3',
  ])
    expect(first.shown).toContain(said)
  const log = readFileSync(join(folder, 'log.jsonl'), 'utf8').trim().split('\n')
  expect(JSON.parse(log.at(-1)!)).toMatchObject({ what: 'tick', ticked: 2, of: 3, open: [[`shop.${ZONE}.`, 'CNAME']] })

  published()
  const again = await run(folder, 'sheet', ZONE, '--tick', '--style', 'full-names')
  expect([again.status, again.stdout]).toEqual([0, expect.stringContaining('with 2 of 3')])
  const rows = (await run(folder, 'sheet', ZONE, '--tick', '--json')).json().rows
  expect(rows.map(({ action }: any) => action)).toEqual(['keep', 'keep', 'keep'])
})

test('a TTL that the form or its host makes is ticked off, one that it does not is asked about', async () => {
  const { folder, load } = await world('www 60 A 192.0.2.10\nftp 60 A 192.0.2.11\n', ['authoritative'])
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    `${readFileSync(join(folder, 'bramblefront.yaml'))}sheets: [{label: own, ttl: minutes, ttl-floor: 5m}]\n`,
  )
  for (const each of ['198.51.100.53', '203.0.113.53'])
    load(each, `${HEAD}www 300 A 192.0.2.10\nftp 900 A 192.0.2.11\n`)
  const call = ['sheet', ZONE, '--tick', '--style', 'own']
  const told = await run(folder, ...call)
  expect([told.status, told.stdout]).toEqual([1, expect.stringMatching(/1 of 2 [\s\S]*TTL is 900 instead of 60/)])
  const accepted = await atTerminal(folder, call, ['', 'a'])
  expect(accepted.shown).toContain('All 2 record sets')
  expect((await run(folder, ...call)).status).toBe(0)
})

test('a bare file is ticked off, too; nobody there is no tick; what cannot go together is said', async () => {
  const { folder, port } = await world('www A 192.0.2.10\n')
  const at = ['--at', `127.0.0.1:${port('198.51.100.53')}`]
  expect((await run(folder, 'sheet', FILE, '--tick', ...at)).status).toBe(0)
  const nobody = await run(folder, 'sheet', FILE, '--tick', '--at', '127.0.0.1:9', '--timeout', '0.3')
  expect([nobody.status, nobody.stdout]).toEqual([3, expect.stringContaining('none of the servers answered')])
  for (const args of [
    ['--with', 'x.zone'],
    ['--tick', '--changes'],
    ['--tick', '--page', 'x.html'],
  ])
    expect((await run(folder, 'sheet', ZONE, ...args)).status).toBe(2)
})

test('where no server answers, what was last published is taken', async () => {
  const { folder } = await world('www A 192.0.2.10\n', ['authoritative'])
  await run(folder, 'confirm', ZONE)
  await run(folder, 'write', 'address', 'www', '192.0.2.11')
  const config = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
  writeFileSync(join(folder, 'bramblefront.yaml'), config.replaceAll(/port: \d+/g, 'port: 9'))
  const ran = await run(folder, 'sheet', ZONE, '--changes', '--timeout', '0.3')
  expect([ran.status, ran.stdout]).toEqual([1, expect.stringMatching(/last published/)])
  expect((await run(folder, 'sheet', ZONE, '--changes', '--with', 'published', '--json')).json().rows).toMatchObject([
    { action: 'change', before: ['192.0.2.10'] },
  ])
})

test('a zone with errors is said to have them first; one long value makes its own row long alone', async () => {
  const long = `v=spf1 ${Array.from({ length: 6 }, (_, i) => `ip4:192.0.2.${i}`).join(' ')} -all`
  const rows = `@ TXT "${long}"\n@ A 192.0.2.80\nmail A 192.0.2.25\n`
  const folder = folderWith({
    'sound.zone': `${HEAD}${rows}@ MX 10 mail\n`,
    'wrong.zone': `${HEAD}${rows}@ MX 10 nowhere\n`,
  })
  const sound = await run(folder, 'sheet', 'sound.zone', '--zone', 'hollowmere.example')
  expect([sound.status, sound.stderr]).toEqual([0, ''])
  const short = sound.stdout.split('\n').find((line) => line.includes('192.0.2.25'))!
  expect(short.length).toBeLessThan(long.length)
  const wrong = await run(folder, 'sheet', 'wrong.zone', '--zone', 'hollowmere.example')
  expect([wrong.status, wrong.stderr]).toEqual([
    1,
    expect.stringMatching(/has 1 error: correct it before.*check wrong\.zone/),
  ])
  expect(wrong.stdout).toContain('nowhere')
})

test('what is there otherwise is changed, and what only a wildcard makes is entered: in both ways of looking', async () => {
  const { folder } = await world('www A 192.0.2.10\n*.pier A 192.0.2.40\n', ['authoritative'])
  for (const args of [
    ['write', 'address', 'www', '192.0.2.11'],
    ['write', 'address', 'east.pier', '192.0.2.41'],
  ])
    expect(await run(folder, ...args)).toMatchObject({ status: 0 })
  for (const way of ['--changes', '--tick']) {
    const { rows } = (await run(folder, 'sheet', ZONE, way, '--timeout', '1', '--json')).json()
    const told = rows.map(({ action, owner, before }: any) => [action, owner.replace(`.${ZONE}.`, ''), before])
    expect([way, told.filter(([action]: any) => action !== 'keep').sort()]).toEqual([
      way,
      [
        ['change', 'www', ['192.0.2.10']],
        ['enter', 'east.pier', null],
      ],
    ])
  }
  expect((await run(folder, 'sheet', ZONE, '--tick', '--timeout', '1')).stdout).toMatch(
    /change\s+now there: 192\.0\.2\.10/,
  )
})

test('a record that says what its wildcard says is done once it is there, and gone once it is removed', async () => {
  const { folder } = await world('*.pier A 192.0.2.40\neast.pier A 192.0.2.40\nwest.pier A 192.0.2.40\n', [
    'authoritative',
  ])
  const call = ['sheet', ZONE, '--changes', '--timeout', '1', '--json']
  expect(await run(folder, ...call)).toMatchObject({ status: 0 })
  expect(await run(folder, 'remove', 'east.pier', 'A')).toMatchObject({ status: 0 })
  const ran = await run(folder, ...call)
  expect([ran.status, ran.json().rows]).toEqual([0, []])
})

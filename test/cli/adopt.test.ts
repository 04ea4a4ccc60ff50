/** `adopt` as people call it: tables, what is kept and left out, options that do not fit. */
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { answering, serve } from '../../src/serve/sockets.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD, run } from './program.ts'
import { open } from './world.ts'

const FILE = 'zones/rail.example.zone'
const LINES = `mail A 192.0.2.25
@ MX 10 mail
www CNAME front.elsewhere.example.
; kept by hand
autodiscover CNAME setup.former.example.
s1._domainkey TXT "v=DKIM1; p="
s2._domainkey TXT "v=DKIM1; p="
`
const folder = (files: Record<string, string> = {}): string =>
  folderWith({ 'bramblefront.yaml': 'zones:\n  - zones/*.zone\n', 'rail.zone': HEAD + LINES, ...files })
const written = (here: string): string => readFileSync(join(here, FILE), 'utf8')
const ZONE = ['--zone', 'rail.example']

const TABLES: Record<string, string> = {
  'commas, with a heading':
    'Type,Name,Content,Priority,TTL\nMX,@,mail.rail.example,10,3600\nA,mail,192.0.2.25,,300\nTXT,@,"v=spf1 mx -all",,300\nSRV,_imaps._tcp,0 1 993 mail.rail.example,,3600\n',
  'copied off the page of a form':
    'Host\tType\tPriority\tValue\tTTL\n@\tMX\t10\tmail.rail.example\t1 Hour\nmail\tA\t\t192.0.2.25\t5 min\n@\tTXT\t\tv=spf1 mx -all\t5 min\n_imaps._tcp\tSRV\t0\t1 993 mail.rail.example\t1 Hour\nEdit Delete\n',
  'with SOA and NS of its own':
    'rail.example. | SOA | ns1.upland-dns.example. hostmaster.rail.example. 7 7200 900 1209600 300\nrail.example. | NS | ns1.upland-dns.example.\n@ | MX | 10 mail.rail.example.\nmail | A | 192.0.2.25\n@ | TXT | "v=spf1 mx -all"\n_imaps._tcp | SRV | 0 1 993 mail.rail.example.\n',
}

test.each(Object.entries(TABLES))('a table, %s, becomes a zone file', async (_what, text) => {
  const here = folder({ 'table.csv': text })
  const ran = await run(here, 'adopt', 'table.csv', ...ZONE, '--ns', 'ns1.upland-dns.example', '--json')
  expect([ran.status, ran.json().by, ran.json().records]).toEqual([0, 'table', 6])
  for (const line of [
    /MX +10 mail$/m,
    /^mail .*A +192\.0\.2\.25$/m,
    /TXT +"v=spf1 mx -all"$/m,
    /SRV +0 1 993 mail$/m,
    /NS +ns1\.upland-dns\.example\.$/m,
  ])
    expect(written(here)).toMatch(line)
})

test('of a table without name servers, what stands for them is said; of one that cannot be read whole, nothing is kept', async () => {
  const here = folder({
    'good.csv': 'A,mail,192.0.2.25\n',
    'bad.csv': 'Type,Name,Value\nA,mail,192.0.2.25\nA,web,192.0.2.\nCNAME,<selector>,x.example\n',
  })
  expect((await run(here, 'adopt', 'bad.csv', ...ZONE)).stderr).toMatch(
    /nothing was adopted\n +line 3.*\n +line 4.*placeholder/,
  )
  expect(existsSync(join(here, 'zones'))).toBe(false)
  const ran = await run(here, 'adopt', 'good.csv', ...ZONE, '--json')
  expect([ran.status, ran.json().notes.join(' ')]).toEqual([0, expect.stringContaining('--ns HOST')])
})

test.each<[string, string[], string[]]>([
  ['--leave by name', ['--leave', 'autodiscover'], ['autodiscover CNAME']],
  ['--leave by pattern and type', ['--leave', '*._domainkey TXT'], ['s1._domainkey TXT', 's2._domainkey TXT']],
  [
    '--keep',
    ['--keep', 'mail', '--keep', '@'],
    ['autodiscover CNAME', 's1._domainkey TXT', 's2._domainkey TXT', 'www CNAME'],
  ],
  [
    'both',
    ['--keep', '*mail*', '--keep', 'www', '--leave', 'WWW.rail.example.'],
    ['@ MX', 'autodiscover CNAME', 's1._domainkey TXT', 's2._domainkey TXT', 'www CNAME'],
  ],
])('%s: what is left out is named, and stays in the backup', async (_what, options, left) => {
  const here = folder()
  const ran = await run(here, 'adopt', 'rail.zone', ...ZONE, ...options, '--json')
  expect(ran.status).toBe(0)
  const { backup, notes, records } = ran.json()
  expect(
    notes
      .join()
      .match(/left out: (.*)\./)[1]
      .split(', ')
      .sort(),
  ).toEqual(left)
  expect(records).toBe(9 - left.length)
  expect(written(here)).toContain('; kept by hand')
  expect(readFileSync(join(here, backup), 'utf8')).toBe(HEAD + LINES)
  expect((await run(here, 'check')).stderr).toBe('')
})

test('the backup beside a zone that is replaced, with what was there before', async () => {
  const here = folder({ [FILE]: `${HEAD}old A 192.0.2.9\n` })
  const call = ['adopt', 'rail.zone', ...ZONE, '--leave', 'www']
  expect(await run(here, ...call)).toMatchObject({ status: 1 })
  expect(written(here)).toContain('old')
  expect(await run(here, ...call, '--yes')).toMatchObject({ status: 0 })
  const backups = readdirSync(join(here, 'backups/rail.example')).map((each) =>
    readFileSync(join(here, 'backups/rail.example', each), 'utf8'),
  )
  expect(backups).toEqual(expect.arrayContaining([HEAD + LINES, `${HEAD}old A 192.0.2.9\n`]))
})

test('a zone that is signed comes without what its server makes', async () => {
  const dnssec = `www A 192.0.2.1\nwww RRSIG A 13 3 3600 20300101000000 20260101000000 1 rail.example. AAAA\nwww NSEC @ A RRSIG NSEC\n`
  const here = folder({ 'signed.zone': HEAD + dnssec })
  const served = await serve(answering(loadZones(bareFiles([join(here, 'signed.zone')], 'rail.example'))))
  open.push(served)
  const ran = await run(here, 'adopt', 'rail.example', '--from', `127.0.0.1:${served.port}`, '--json')
  expect([ran.status, ran.json().records, ran.json().notes]).toEqual([
    0,
    4,
    [expect.stringMatching(/signed\. 2 records/)],
  ])
  expect(readFileSync(join(here, 'bramblefront.yaml'), 'utf8')).toContain('signed: server')
})

test.each<[string[], number, RegExp]>([
  [['--keep', 'nothing'], 2, /no record set of rail\.example matches/],
  [['--keep', '@ MXX'], 2, /a name and a type/],
  [['--choose'], 1, /needs a terminal/],
  [['--key', 'k'], 2, /--key belongs to --from/],
  [['--names', 'n'], 2, /--names belongs to a zone that is asked for/],
  [['--from', 'nowhere'], 2, /must be ADDRESS or ADDRESS:PORT/],
  [['--from', '127.0.0.1:1', '--by-asking'], 2, /two ways/],
  [['--from', '127.0.0.1:1', '--key', 'rail.zone'], 2, /rail\.zone: it holds no single key/],
  [['--from', '127.0.0.1:1'], 3, /port is closed; nothing was kept/],
  [['--by-asking', '--at', '127.0.0.1:1', '--timeout', '1'], 3, /no authoritative answer/],
])('%j is one clear message', async (options, status, says) => {
  const here = folder()
  const isServer = options[0] === '--from' || options[0] === '--by-asking'
  const ran = await run(here, 'adopt', ...(isServer ? ['rail.example'] : ['rail.zone', ...ZONE]), ...options)
  expect(ran).toMatchObject({ status, stdout: '', stderr: expect.stringMatching(says) })
  expect(existsSync(join(here, FILE))).toBe(false)
})

test('by asking goes on at a server that drops the questions of a dozen types', async () => {
  const here = folder()
  const zones = loadZones(bareFiles([join(here, 'rail.zone')], 'rail.example'))
  // What is younger than the RFC 1035 is dropped, as some filters do.
  const YOUNG = 29
  const served = await serve((query, id, udp) =>
    'garbled' in query || query.questions[0]!.type < YOUNG ? answering(zones)(query, id, udp) : undefined,
  )
  open.push(served)
  const at = `127.0.0.1:${served.port}`
  const ran = await run(here, 'adopt', 'rail.example', '--by-asking', '--at', at, '--timeout', '0.6', '--json')
  expect(ran.status).toBe(0)
  // What was not answered for is said to be unknown.
  expect(ran.json().unknown).toContain('mail.rail.example.')
  for (const line of [/^mail +A /m, /^www +CNAME /m, /^autodiscover +CNAME /m, /^ *MX +10 mail/m])
    expect(written(here).replaceAll(/^@ /gm, '  ')).toMatch(line)
}, 60_000)

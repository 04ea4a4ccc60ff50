/** What people type: understood where that is beyond doubt, else answered with the right call. */
import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run, runWith } from './program.ts'

const FILE = 'zones/hollowmere.example.zone'
const REVERSE = 'zones/2.0.192.in-addr.arpa.zone'
const folder = (): string =>
  folderWith({
    'bramblefront.yaml': 'zones:\n  - zones/*.zone\n',
    [FILE]: `${HEAD}mail A 192.0.2.25\nkiosk A 192.0.2.40\n@ MX 10 mail\n`,
    [REVERSE]: HEAD.replace('hostmaster', 'h.hollowmere.example.'),
  })

test.each<[string[], string, string[]]>([
  [
    ['mx', 'hollowmere.example', '10', 'mail', '20', 'mx.larkpost.example.'],
    'MX',
    ['10 mail.hollowmere.example.', '20 mx.larkpost.example.'],
  ],
  [['srv', '_x._tcp.hollowmere.example', '0', '5', '9987', 'kiosk'], 'SRV', ['0 5 9987 kiosk.hollowmere.example.']],
  [['mx', 'hollowmere.example', 'hollowmere.example. 3600 IN MX 20 mail'], 'MX', ['20 mail.hollowmere.example.']],
  [['txt', 'kiosk.hollowmere.example', '“hello there”'], 'TXT', ['"hello there"']],
  [['txt', 'kiosk.hollowmere.example', 'v=DKIM1; p=AAAA\n  BBBB'], 'TXT', ['"v=DKIM1; p=AAAABBBB"']],
  [['txt', 'kiosk.hollowmere.example', 'one\u00a0two'], 'TXT', ['"one two"']],
  [['mx', 'hollowmere.example', '--ttl', '5m'], 'MX', ['10 mail.hollowmere.example.']],
  [['ptr', '192.0.2.25', 'mail.hollowmere.example'], 'PTR', ['mail.hollowmere.example.']],
  [['record', '192.0.2.26', 'ptr', 'mail.hollowmere.example'], 'PTR', ['mail.hollowmere.example.']],
  [
    ['dmarc', '_dmarc.hollowmere.example', 'p=none', 'rua=mailto:a@hollowmere.example'],
    'TXT',
    ['"v=DMARC1; p=none; rua=mailto:a@hollowmere.example"'],
  ],
])('%j is understood', async (args, type, records) => {
  const ran = await run(folder(), 'write', ...args, '--dry-run', '--json', '--force')
  const set = ran.json().sets.find((each: { type: string }) => each.type === type)
  expect(set.after.records).toEqual(records)
  expect(set.owner).not.toContain('_dmarc._dmarc')
})

test.each<[string[], RegExp]>([
  [['mx', 'hollowmere.example', 'mail', '10'], /write mx hollowmere\.example 10 mail$/m],
  [['mx', 'hollowmere.example', 'mail'], /write mx hollowmere\.example 10 mail$/m],
  [['srv', '_x._tcp.hollowmere.example', '0', '5', 'kiosk:9987'], /0 5 9987 kiosk$/m],
  [['srv', '_x._tcp.hollowmere.example', '0', '5', '99870', 'kiosk'], /0 to 65535/],
  [['address', 'kiosk.hollowmere.example', '192.0.2.040'], /leading zero.*192\.0\.2\.40/],
  [['address', 'kiosk.hollowmere.example', '192.0.2.400'], /400 is over 255/],
  [['txt', 'kiosk.hollowmere.example', ''], /empty/],
  [['spf', 'hollowmere.example', '--allow', '192.0.2.7:25'], /port.*ip4:192\.0\.2\.7/],
  [['dkim', 'hollowmere.example', '--alias', 's1=s1.keys.larkpost.example'], /final dot/],
  [['alias', 'kiosk.hollowmere.example', 'mail'], /not a record type.*write cname.*bramblefront follow/],
  [['record', 'hollowmere.example', 'ANAME', 'mail'], /not a record type.*bramblefront follow/],
  [['mx', 'hollowmere.exampel', '10', 'mail'], /did you mean hollowmere\.example\?/],
])('%j is answered with what would be right', async (args, message) => {
  const here = folder()
  const before = readFileSync(join(here, FILE), 'utf8')
  const { status, stderr } = await run(here, 'write', ...args)
  expect(stderr).toMatch(message)
  expect([status, readFileSync(join(here, FILE), 'utf8')]).toEqual([2, before])
})

test.each([
  ['pebblegane.example', 2],
  ['api.dev', 2],
  ['www.kiosk', 0],
  ['_imaps._tcp', 0],
  ['new', 0],
])('the owner %s beside one zone: status %i', async (owner, status) => {
  const here = folderWith({ 'pebblegame.example.zone': `${HEAD}kiosk A 192.0.2.40\n` })
  const ran = await run(here, 'write', 'txt', owner, 'x', '--file', 'pebblegame.example.zone')
  expect(ran.status).toBe(status)
  if (status === 2) expect(ran.stderr).toContain(`${owner}.pebblegame.example`)
})

test('a TTL is lowered, told of when it stays so, and put back', async () => {
  const here = folder()
  const ttlOf = async () =>
    (await run(here, 'show', 'hollowmere.example', '--json'))
      .json()
      .sets.find((each: { type: string }) => each.type === 'A').ttl
  expect((await run(here, 'write', 'ttl', 'mail.hollowmere.example', 'kiosk.hollowmere.example', '300')).status).toBe(0)
  expect(await ttlOf()).toBe(300)
  const later = await runWith(
    here,
    { BRAMBLEFRONT_AHEAD: '200000' },
    'check',
    '--only',
    'set/ttl-not-restored',
    '--json',
  )
  expect(later.json().findings).toHaveLength(2)
  expect((await run(here, 'check', '--only', 'set/ttl-not-restored', '--json')).json().findings).toEqual([])
  expect(
    (await run(here, 'write', 'ttl', 'mail.hollowmere.example', 'kiosk.hollowmere.example', '--restore')).status,
  ).toBe(0)
  expect(await ttlOf()).toBe(3600)
  expect((await run(here, 'write', 'ttl', 'mail.hollowmere.example', '--restore')).status).toBe(2)
})

describe('steps of a policy', () => {
  const withPolicy = (log: object[]): string =>
    folderWith({
      'bramblefront.yaml': 'zones: [zones/*.zone]\n',
      [FILE]: `${HEAD}_dmarc TXT "v=DMARC1; p=none; rua=mailto:a@hollowmere.example"\n`,
      'log.jsonl': log.map((each) => `${JSON.stringify(each)}\n`).join(''),
    })
  const daysAgo = (days: number): string => new Date(Date.now() - days * 86_400_000).toISOString()
  const owner = '_dmarc.hollowmere.example.'
  const zone = 'hollowmere.example.'
  const set = (text: string) => ({ ttl: 3600, records: [`"v=DMARC1; ${text}"`] })
  const changed = (days: number) => ({
    at: daysAgo(days),
    what: 'change',
    zone,
    sets: [{ owner, type: 'TXT', before: null, after: set('p=none') }],
  })
  const otherTag = (days: number) => ({
    at: daysAgo(days),
    what: 'change',
    zone,
    sets: [{ owner, type: 'TXT', before: set('p=none'), after: set('p=none; fo=1') }],
  })
  const seen = (days: number) => ({ at: daysAgo(days), what: 'published', zone, sets: [[owner, 'TXT', 'x']] })
  test.each<[string, object[], string[], number]>([
    ['nothing known', [], [], 0],
    ['published long enough', [changed(20), seen(19)], [], 0],
    ['published too lately', [changed(20), seen(3)], [], 1],
    ['never seen published', [changed(20)], [], 1],
    ['too early, with --force', [changed(20)], ['--force'], 0],
    ['another tag since then', [changed(30), seen(29), otherTag(1)], [], 0],
  ])('%s', async (_what, log, options, status) => {
    const here = withPolicy(log)
    const ran = await run(here, 'write', 'dmarc', 'hollowmere.example', '--next', ...options)
    expect(ran.status).toBe(status)
    expect(readFileSync(join(here, FILE), 'utf8')).toContain(status === 0 ? 'p=quarantine' : 'p=none')
    // The conditions come before what was done.
    expect(ran.stdout.indexOf('Conditions')).toBe(0)
  })
})

test('a zone that is there is replaced by a newer export only when that is said; the file before is kept', async () => {
  const here = folder()
  const newer = join(folderWith({ 'new.zone': `${HEAD}mail A 192.0.2.99\n` }), 'new.zone')
  const call = ['adopt', newer, '--zone', 'hollowmere.example']
  expect((await run(here, ...call)).status).toBe(1)
  expect((await run(here, ...call, '--yes')).status).toBe(0)
  expect(readFileSync(join(here, FILE), 'utf8')).toContain('192.0.2.99')
  const { backup, sets } = JSON.parse(readFileSync(join(here, 'log.jsonl'), 'utf8'))
  const kept = readdirSync(join(here, dirname(backup))).map((each) =>
    readFileSync(join(here, dirname(backup), each), 'utf8'),
  )
  expect(kept.some((text) => text.includes('kiosk'))).toBe(true)
  expect(sets).toHaveLength(3)
})

test('init makes a sound new zone, in a workspace that is there, too', async () => {
  const here = folderWith()
  const zone = (name: string) => [
    'init',
    '--zone',
    name,
    '--ns',
    'ns1.upland-dns.example',
    '--ns',
    'ns2.upland-dns.example',
  ]
  expect((await run(here, ...zone('heron.example'), '--mailbox', 'a.b@larkpost.example')).status).toBe(0)
  expect((await run(here, ...zone('tern.example'))).status).toBe(0)
  expect((await run(here, ...zone('tern.example'))).status).toBe(2)
  expect((await run(here, 'check', '--severity', 'warning', '--json')).json().findings).toEqual([])
  expect(readFileSync(join(here, 'zones/heron.example.zone'), 'utf8')).toContain('a\\.b.larkpost.example.')
})

test('quiet says nothing if all is well, and everything if not', async () => {
  const here = folder()
  expect((await run(here, 'write', 'address', 'x.hollowmere.example', '192.0.2.9', '--quiet')).stdout).toBe('')
  const refused = await run(here, 'write', 'mx', 'hollowmere.example', '10', 'gone', '--quiet')
  expect([refused.status, refused.stdout]).toEqual([1, expect.stringContaining('Refused')])
})

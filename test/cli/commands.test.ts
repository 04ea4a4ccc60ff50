import {
  chmodSync,
  cpSync,
  existsSync,
  lstatSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'

const WORKSPACE = 'zones: [zones/*.zone]\n'
const demo = (): string => {
  const folder = folderWith()
  cpSync('demo', folder, { recursive: true })
  return folder
}
const read = (folder: string, file: string): string => readFileSync(join(folder, file), 'utf8')

describe('check', () => {
  test('the five planted faults of the demo zone, as people read them and as JSON', async () => {
    const folder = demo()
    const people = await run(folder, 'check', 'zones/hollowmere.example.zone')
    expect(people.status).toBe(1)
    expect(people.stdout).toContain(
      '     20 » @               IN MX    10 mail\n                                      ‾‾‾‾',
    )
    expect(people.stdout).toMatch(/27 records in zones\/hollowmere\.example\.zone: 4 errors, 1 warning, advice: 3\./)
    const { json, status } = await run(folder, 'check', 'zones/hollowmere.example.zone', '--json')
    expect(status).toBe(1)
    expect(json().counts).toEqual({ error: 4, warning: 1, advice: 3 })
    const faults = json().findings.filter((each: { severity: string }) => each.severity !== 'advice')
    expect(
      faults.map((each: { rule: string; line: number; column: number }) => [each.rule, each.line, each.column]),
    ).toEqual([
      ['cname/target-missing', 17, 26],
      ['mx/target-is-alias', 20, 29],
      ['spf/several', 26, 20],
      ['srv/owner-form', 37, 1],
      ['name/doubled-zone', 38, 37],
    ])
    expect(faults[1]).toEqual({
      rule: 'mx/target-is-alias',
      severity: 'error',
      owner: 'hollowmere.example.',
      type: 'MX',
      zone: 'hollowmere.example.',
      file: 'zones/hollowmere.example.zone',
      line: 20,
      column: 29,
      message: expect.stringContaining('mail.hollowmere.example.'),
      effect: expect.any(String),
      fix: [
        'hollowmere.example. MX 10 office.hollowmere.example.',
        expect.stringContaining('write address mail.hollowmere.example ADDRESS --replace'),
      ],
      fixable: false,
      source: 'RFC 2181 §10.3, RFC 5321 §5.1',
    })
  })

  test('the workspace as a whole: an alias in one zone is found from another', async () => {
    const { findings } = (await run(demo(), 'check', '--json')).json()
    expect(
      findings
        .filter((each: { file: string }) => each.file.includes('freight'))
        .map((each: { rule: string }) => each.rule),
    ).toEqual(['mx/target-is-alias', 'dkim/none', 'dmarc/report-consent'])
  })

  test('a sound zone is silent and ends well', async () => {
    const zone = `${HEAD}@ MX 0 .\n@ TXT "v=spf1 -all"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:dmarc@larkpost.example"\n`
    const { status, stdout } = await run(
      folderWith({ 'lakepass.example.zone': zone }),
      'check',
      'lakepass.example.zone',
      '--except',
      'soa,mail',
    )
    expect([status, stdout]).toEqual([0, '6 records in lakepass.example.zone: nothing found.\n'])
  })

  test('a file that cannot be read as a zone gives findings, and the rest is checked', async () => {
    const folder = folderWith({
      'hollowmere.example.zone': `${HEAD}a A 192.0.2\nb TXT ( "x\nwww CNAME gone\nc BOGUS 1\n`,
    })
    const { status, json } = await run(folder, 'check', 'hollowmere.example.zone', '--json')
    expect(status).toBe(1)
    const found = json().findings.filter((each: { rule: string }) => !each.rule.startsWith('soa/'))
    expect(
      found.map(
        (each: { rule: string; line: number; severity: string }) => `${each.rule} ${each.line} ${each.severity}`,
      ),
    ).toEqual([
      'file/bad-address 5 error',
      'file/bad-quote 6 error',
      'cname/target-missing 7 warning',
      'file/unknown-type 8 error',
    ])
  })

  test('what comes from a file is shown, not obeyed', async () => {
    const folder = folderWith({ 'hollowmere.example.zone': `${HEAD}a A \u001b]0;owned\u0007\u202e\n` })
    const { stdout } = await run(folder, 'check', 'hollowmere.example.zone')
    expect(stdout).not.toMatch(/[\u001b\u0007\u202e]/)
    expect(stdout).toContain('\\u{1b}]0;owned\\u{7}\\u{202e}')
  })
})

describe('bad input: one clear message, the documented status, nothing changed', () => {
  test.each<[string, Record<string, string | Uint8Array>, string[], RegExp]>([
    ['a missing file', {}, ['check', 'gone.zone'], /cannot read gone\.zone: no such file/],
    ['a folder', { 'x.zone/y': '' }, ['check', 'x.zone'], /it is a folder, not a file/],
    ['no workspace', {}, ['check'], /no workspace here .* bramblefront init/],
    [
      'an empty workspace',
      { 'bramblefront.yaml': WORKSPACE },
      ['check'],
      /has no zones yet.*adopt FILE.*adopt ZONE.*init --zone/,
    ],
    [
      'YAML that is none',
      { 'bramblefront.yaml': 'zones: [\n' },
      ['check'],
      /^bramblefront: bramblefront\.yaml:\d+:\d+: not YAML: /,
    ],
    [
      'an unknown key',
      { 'bramblefront.yaml': 'zones: []\nvantage: []\n' },
      ['check'],
      /bramblefront\.yaml:2:1: unknown key “vantage”; did you mean “vantages”\?/,
    ],
    [
      'an unknown key in an entry',
      { 'bramblefront.yaml': 'vantages:\n  - {label: a, adress: 192.0.2.1}\n' },
      ['check'],
      /bramblefront\.yaml:2:16: unknown key “adress”; did you mean “address”\?/,
    ],
    [
      'a vantage that is not an IP address',
      { 'bramblefront.yaml': 'vantages:\n  - {label: a, address: dns.example}\n' },
      ['check'],
      /bramblefront\.yaml:2:16: vantages\[0\]\.address must be an IPv4 or IPv6 address/,
    ],
    [
      'a zone nobody names',
      { 'x.zone': 'www A 192.0.2.1\n' },
      ['check', 'x.zone'],
      /its name gives “x”, a single label; name it with --zone/,
    ],
    [
      'two clues that differ',
      { 'lakepass.example.zone': '$ORIGIN hollowmere.example.\nwww 1 A 192.0.2.1\n' },
      ['check', 'lakepass.example.zone'],
      /its name says lakepass\.example, its \$ORIGIN says hollowmere\.example/,
    ],
    [
      'a zone name that is none',
      { 'x.zone': '' },
      ['check', 'x.zone', '--zone', 'a..b'],
      /a\.\.b” is not a valid domain name/,
    ],
    [
      'two files for one zone',
      {
        'bramblefront.yaml': WORKSPACE,
        'zones/a.zone': 'a.example. 1 SOA a b 1 1 1 1 1',
        'zones/b.zone': 'A.example. 1 SOA a b 1 1 1 1 1',
      },
      ['show', 'a.example'],
      /are both for the zone/,
    ],
    ['an unknown command', {}, ['chekc'], /unknown command 'chekc'/],
    ['an unknown option', {}, ['check', '--nonsense'], /unknown option '--nonsense'/],
    [
      'an unknown rule',
      {},
      ['explain', 'mx/target-alias'],
      /is neither a rule nor a family of rules; did you mean mx\/target-is-alias\?/,
    ],
    [
      'a rate that is none',
      { 'a.zone': HEAD },
      ['confirm', 'a.zone', '--zone', 'a.example', '--rate', 'fast'],
      /--rate fast must be a number of queries per second, or none/,
    ],
    [
      'no sample',
      { 'a.zone': HEAD },
      ['confirm', 'a.zone', '--zone', 'a.example', '--samples', '0'],
      /--samples 0 must be a number from 1 to 100/,
    ],
    [
      'a deadline of nothing',
      { 'a.zone': HEAD },
      ['confirm', 'a.zone', '--zone', 'a.example', '--deadline', '5m'],
      /--deadline requires --watch/,
    ],
    [
      'no time',
      { 'a.zone': HEAD },
      ['timing', 'a.zone', '--zone', 'a.example', '--lower-to', 'soon'],
      /--lower-to soon must be a time, as in 300 or 5m/,
    ],
    [
      'a vantage out of sorts',
      { 'hollowmere.example.zone': HEAD },
      ['confirm', 'hollowmere.example.zone', '--at', 'localhost'],
      /--at localhost: must be authoritative, system, an address \(/,
    ],
  ])('%s', async (_what, files, args, message) => {
    const folder = folderWith(files)
    const before = readdirSync(folder, { recursive: true }).sort()
    const { status, stdout, stderr } = await run(folder, ...args)
    expect(stderr).toMatch(message)
    expect([status, stdout]).toEqual([2, ''])
    expect(stderr.trim().split('\n').length).toBeLessThanOrEqual(2)
    expect(readdirSync(folder, { recursive: true }).sort()).toEqual(before)
  })

  test('a binary file and a zone without SOA are findings', async () => {
    const folder = folderWith({
      'x.zone': new Uint8Array([0x7f, 0x45, 0x4c, 0x46, 0, 0, 1]),
      'hollowmere.example.zone': '$TTL 1\n@ NS a.lakepass.example.\n@ NS b.lakepass.example.\n',
    })
    expect(
      (await run(folder, 'check', 'x.zone', '--zone', 'x.example', '--json'))
        .json()
        .findings.map((each: { rule: string }) => each.rule),
    ).toEqual(['file/binary'])
    expect(
      (await run(folder, 'check', 'hollowmere.example.zone', '--json'))
        .json()
        .findings.map((each: { rule: string }) => each.rule),
    ).toEqual(['soa/missing'])
  })
})

describe('init and write', () => {
  test('init makes a workspace once; its file is read without complaint', async () => {
    const folder = folderWith({ 'zones/hollowmere.example.zone': HEAD })
    expect((await run(folder, 'init')).status).toBe(0)
    expect(readdirSync(folder).sort()).toEqual([
      'backups',
      'bramblefront.schema.json',
      'bramblefront.yaml',
      'keys',
      'zones',
    ])
    expect(statSync(join(folder, 'keys')).mode & 0o777).toBe(0o700)
    expect((await run(folder, 'check')).status).toBe(0)
    const again = await run(folder, 'init')
    expect([again.status, again.stderr]).toEqual([2, expect.stringContaining('already exists')])
  })

  test('a set before and after, a backup, the serial, and nothing else changed', async () => {
    const folder = demo()
    const file = 'zones/hollowmere.example.zone'
    const before = read(folder, file)
    const { status, stdout } = await run(
      folder,
      'write',
      'mx',
      'hollowmere.example',
      '10 office',
      '20 mx2.larkpost.example.',
    )
    expect(status).toBe(0)
    expect(stdout).toMatch(
      /before {2}3600 10 mail\.hollowmere\.example\.\n +3600 20 mx2\.larkpost\.example\.\n {2}after {3}3600 10 office\.hollowmere\.example\.\n/,
    )
    const serial = /serial 2026112301 → (\d{10})\./.exec(stdout)![1]!
    expect(read(folder, file)).toBe(before.replace('10 mail\n', '10 office\n').replace('2026112301', serial))
    // What was wrong before is not laid at the change's door.
    expect(stdout).toMatch(/Already there before: .*spf\/several/)
    const [copy] = readdirSync(join(folder, 'backups/hollowmere.example'))
    expect(read(folder, `backups/hollowmere.example/${copy}`)).toBe(before)
  })

  test.each<[string, string[], RegExp]>([
    ['an alias beside other data', ['cname', 'chat.hollowmere.example', 'kiosk'], /cname\/other-data/],
    ['an exchange that is an address', ['mx', 'hollowmere.example', '10 192.0.2.25'], /mx\/target-is-address/],
    [
      'a service without its underscore',
      ['srv', 'xmpp-client._tcp.hollowmere.example', '5 0 5222 chat'],
      /srv\/owner-form[\s\S]*Fix: +_xmpp-client\._tcp\.hollowmere\.example\. SRV 5 0 5222 chat\.hollowmere\.example\./,
    ],
    ['an exchange that does not exist', ['mx', 'hollowmere.example', '10 nowhere'], /mx\/target-without-address/],
  ])('%s is refused; --force writes it and says so', async (_what, args, message) => {
    const folder = demo()
    const before = read(folder, 'zones/hollowmere.example.zone')
    const refused = await run(folder, 'write', ...args)
    expect([refused.status, refused.stdout]).toEqual([1, expect.stringMatching(message)])
    expect(refused.stdout).toContain('Nothing was written')
    expect(read(folder, 'zones/hollowmere.example.zone')).toBe(before)
    expect(existsSync(join(folder, 'backups'))).toBe(false)
    const forced = await run(folder, 'write', ...args, '--force')
    expect([forced.status, forced.stdout]).toEqual([0, expect.stringContaining('because of --force')])
    expect(read(folder, 'zones/hollowmere.example.zone')).not.toBe(before)
  })

  test.each<[string, string[], RegExp]>([
    [
      'a target that was most likely absolute',
      ['cname', 'news.hollowmere.example', 'news.quillwing.example'],
      /has no final dot and is not in your zones.*Write “news\.quillwing\.example\.”/,
    ],
    [
      'an address with a port',
      ['address', 'kiosk.hollowmere.example', '192.0.2.40:8443'],
      /an address record holds only the address: 192\.0\.2\.40/,
    ],
    ['an owner in no kept zone', ['txt', 'www.quillwing.example.', 'x'], /is not in any of your zones; /],
    ['an owner that could be in several', ['txt', 'www', 'x'], /choose one with --zone/],
    ['a value that is missing', ['mx', 'hollowmere.example'], /no value/],
    ['a value too few', ['mx', 'hollowmere.example', 'mail'], /write mx hollowmere\.example 10 mail/],
    ['a type that is none', ['record', 'hollowmere.example', 'MXX', '10 mail'], /MXX” is not a record type/],
    [
      'a value to remove that is not there',
      ['mx', 'hollowmere.example', '--remove', '5 mail'],
      /has no MX 5 mail\.hollowmere\.example\. to remove; it has: 10 mail/,
    ],
    ['a TTL that is none', ['txt', 'hollowmere.example', 'x', '--ttl', 'soon'], /--ttl soon must be a time/],
  ])('%s: status 2, nothing written', async (_what, args, message) => {
    const folder = demo()
    const before = read(folder, 'zones/hollowmere.example.zone')
    const { status, stderr, stdout } = await run(folder, 'write', ...args)
    expect(stderr).toMatch(message)
    expect([status, stdout, read(folder, 'zones/hollowmere.example.zone')]).toEqual([2, '', before])
  })

  test('texts are added, split and quoted; --replace, --add, --remove, --ttl and --dry-run do as they say', async () => {
    const folder = demo()
    const sets = async (...args: string[]) => (await run(folder, 'write', ...args, '--json')).json().sets
    const long = `v=DKIM1; p=${'A'.repeat(300)}`
    expect((await sets('txt', 's2026._domainkey.hollowmere.example', long))[0].after).toEqual({
      ttl: 3600,
      records: [`"${long.slice(0, 255)}" "${long.slice(255)}"`],
    })
    expect((await sets('txt', 'lakepass.example', 'ferry-proof=9', '--ttl', '5m'))[0]).toMatchObject({
      before: { ttl: 86400 },
      after: { ttl: 300, records: ['"v=spf1 -all"', '"ferry-proof=9"'] },
    })
    expect((await sets('txt', 'lakepass.example', '--remove', 'ferry-proof=9'))[0].after.records).toEqual([
      '"v=spf1 -all"',
    ])
    expect(
      (await sets('address', 'kiosk.hollowmere.example', '2001:db8::1', '192.0.2.41', '--add')).map((each: any) => [
        each.type,
        each.after.records,
      ]),
    ).toEqual([
      ['A', ['192.0.2.40', '192.0.2.41']],
      ['AAAA', ['2001:db8::1']],
    ])
    const before = read(folder, 'zones/hollowmere.example.zone')
    const dry = (
      await run(folder, 'write', 'record', 'chat.hollowmere.example', 'AAAA', '2001:db8::30', '--dry-run', '--json')
    ).json()
    expect(dry).toMatchObject({
      format: 1,
      written: false,
      dryRun: true,
      refused: false,
      sets: [{ before: null, after: { records: ['2001:db8::30'] } }],
    })
    expect(read(folder, 'zones/hollowmere.example.zone')).toBe(before)
  })

  test('a bare file, through a symbolic link, with its mode; a journal beside it forbids', async () => {
    const folder = folderWith({ 'real/hollowmere.example.zone': HEAD })
    symlinkSync('real/hollowmere.example.zone', join(folder, 'hollowmere.example.zone'))
    chmodSync(join(folder, 'real/hollowmere.example.zone'), 0o640)
    expect(
      (await run(folder, 'write', 'address', 'www', '192.0.2.10', '--file', 'hollowmere.example.zone')).status,
    ).toBe(0)
    expect(lstatSync(join(folder, 'hollowmere.example.zone')).isSymbolicLink()).toBe(true)
    expect(statSync(join(folder, 'real/hollowmere.example.zone')).mode & 0o777).toBe(0o640)
    expect(read(folder, 'real/hollowmere.example.zone')).toContain('www A 192.0.2.10\n')
    writeFileSync(join(folder, 'hollowmere.example.zone.jnl'), '')
    expect(
      await run(folder, 'write', 'address', 'www', '192.0.2.11', '--file', 'hollowmere.example.zone'),
    ).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('journal'),
    })
  })

  test('twelve writers at once: every change is there, none is lost', async () => {
    const folder = folderWith({ 'hollowmere.example.zone': HEAD })
    const ran = await Promise.all(
      Array.from({ length: 12 }, (_, i) =>
        run(folder, 'write', 'txt', 'hollowmere.example', `proof-${i}`, '--file', 'hollowmere.example.zone'),
      ),
    )
    const written = ran.flatMap(({ status }, i) => (status === 0 ? [i] : []))
    expect(
      ran.filter(({ status }) => status !== 0).every(({ stderr }) => stderr.includes('being written by another call')),
    ).toBe(true)
    expect(written.length).toBeGreaterThan(0)
    for (const i of written) expect(read(folder, 'hollowmere.example.zone')).toContain(`"proof-${i}"`)
    expect(read(folder, 'hollowmere.example.zone').match(/proof-/g)).toHaveLength(written.length)
  })
})

test('internationalised names: typed as people write them, written as A-labels, shown as both, refused with the reason', async () => {
  const folder = folderWith({
    'bramblefront.yaml': WORKSPACE,
    'zones/fähre.zone': `$ORIGIN xn--fhre-loa.example.\n${HEAD}`,
  })
  const { status, stdout } = await run(folder, 'write', 'mx', 'Post.Fähre.example', '10 büro')
  expect([status, stdout]).toEqual([1, expect.stringContaining('Post.xn--fhre-loa.example. (Post.fähre.example.) MX')])
  expect((await run(folder, 'write', 'address', 'büro.fähre.example', '192.0.2.1')).status).toBe(0)
  expect((await run(folder, 'write', 'mx', 'post.fähre.example', '10 büro')).status).toBe(0)
  expect(read(folder, 'zones/fähre.zone')).toMatch(/^post +MX 10 xn--bro-hoa$/m)
  expect((await run(folder, 'show', 'fähre.example')).stdout).toContain('10 xn--bro-hoa (büro)')
  expect(await run(folder, 'write', 'address', '☃.fähre.example', '192.0.2.1')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('U+2603 (☃) is not allowed in domain names (RFC 5892)'),
  })
  expect(await run(folder, 'write', 'mx', '@', '10 ☃')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('☃'),
  })
})

describe('show and explain', () => {
  test('by purpose, and as JSON', async () => {
    const { stdout } = await run(demo(), 'show', 'hollowmere.example')
    for (const words of [
      'Receives mail',
      'May send mail',
      'Signs mail',
      'Services',
      'xmpp-client over tcp',
      'Aliases',
      'Hosts',
      'Domain verification',
    ])
      expect(stdout).toContain(words)
    const json = (await run(demo(), 'show', 'zones/lakepass.example.zone', '--json')).json()
    expect(json).toMatchObject({ format: 1, zone: 'lakepass.example.', serial: 3 })
    expect(json.sets[2]).toEqual({ owner: 'lakepass.example.', type: 'MX', ttl: 86400, records: ['0 .'], line: 7 })
  })

  test('nothing long is cut off', async () => {
    const key = `v=DKIM1; k=rsa; p=${'Ab1'.repeat(130)}`
    const { stdout } = await run(
      folderWith({
        'hollowmere.example.zone': `${HEAD}${'very-long-name-'.repeat(4)}x._domainkey TXT "${key.slice(0, 250)}" "${key.slice(250)}"\n`,
      }),
      'show',
      'hollowmere.example.zone',
    )
    expect(stdout.replace(/very-long-name-|x\._domainkey|\s/g, '')).toContain(`p=${'Ab1'.repeat(130)}`)
    expect(Math.max(...stdout.split('\n').map((line) => line.length))).toBeLessThanOrEqual(100)
  })

  test('explain: one rule, all rules', async () => {
    const one = await run(folderWith(), 'explain', 'cname/at-apex')
    expect([one.status, one.stdout]).toEqual([0, expect.stringContaining('RFC 1912 §2.4')])
    expect((await run(folderWith(), 'explain')).stdout).toContain('srv/owner-form')
  })

  test('the version, and help for each command', async () => {
    expect((await run(folderWith(), '--version')).stdout).toBe(
      `${JSON.parse(readFileSync('package.json', 'utf8')).version}\n`,
    )
    expect((await run(folderWith(), 'write', 'mx', '--help')).stdout).toContain('Example:')
  })
})

test('a file of which nobody knows the zone is left out, and the others are checked', async () => {
  const folder = folderWith({
    'bramblefront.yaml': 'zones: [zones/*]\n',
    'zones/hollowmere.example.zone': `${HEAD}www A 192.0.2.10\n`,
    'zones/notes': 'what to do\n',
  })
  const { status, stdout, stderr } = await run(folder, 'check')
  expect([status, stdout, stderr]).toEqual([
    2,
    expect.stringContaining('4 records in zones/hollowmere.example.zone'),
    expect.stringMatching(
      /zones\/notes: .* it was left out. Name its zone in bramblefront.yaml: - \{zone: ZONE, file: zones\/notes\}/,
    ),
  ])
})

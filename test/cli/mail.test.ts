import { createPublicKey } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, describe, expect, test } from 'vitest'
import { respond } from '../../src/serve/respond.ts'
import { serve } from '../../src/serve/sockets.ts'
import { keyFile } from '../../src/workspace/beside.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD, type Ran, run } from './program.ts'

const CONFIG = 'zones: [zones/*.zone]\n'
const ZONE = `${HEAD}@ MX 10 mail\n@ TXT "ferry-proof=41c2"\n@ TXT "v=spf1 mx include:_spf.larkpost.example ~all"\nmail A 192.0.2.25\n`
const POLICY = '_dmarc TXT "v=DMARC1; p=none; fo=1; rua=mailto:dmarc@hollowmere.example"\n'
const workspace = (zone = ZONE, more: Record<string, string> = {}) =>
  folderWith({ 'bramblefront.yaml': CONFIG, 'zones/hollowmere.example.zone': zone, ...more })
const zoneIn = (folder: string, zone = 'hollowmere.example') => readFileSync(join(folder, `zones/${zone}.zone`), 'utf8')
const write = (folder: string, ...args: string[]): Promise<Ran> => run(folder, 'write', ...args)
const without = (text: string, line: string) => text.replace(/ hostmaster \d+/, '').replace(line, '')

describe('write spf', () => {
  test.each<[string, string, string[], string]>([
    [
      'a sender more',
      ZONE,
      ['--allow', 'include:_spf.quillwing.example'],
      'v=spf1 mx include:_spf.larkpost.example include:_spf.quillwing.example ~all',
    ],
    [
      'a provider’s whole record',
      ZONE,
      ['v=spf1 a ip4:192.0.2.25 -all'],
      'v=spf1 mx include:_spf.larkpost.example a ip4:192.0.2.25 ~all',
    ],
    ['a sender less', ZONE, ['--remove', '_spf.larkpost.example'], 'v=spf1 mx ~all'],
    ['another end', ZONE, ['--end', 'fail'], 'v=spf1 mx include:_spf.larkpost.example -all'],
    ['anew', ZONE, ['--replace', '--allow', '2001:db8::/48'], 'v=spf1 ip6:2001:db8::/48 ~all'],
    ['two that are there', `${ZONE}@ TXT "v=spf1 mx a -all"\n`, [], 'v=spf1 mx include:_spf.larkpost.example a ~all'],
    ['the first', `${HEAD}@ MX 10 mail\nmail A 192.0.2.25\n`, ['--allow', 'mx'], 'v=spf1 mx ~all'],
    ['nobody', HEAD, ['--end', 'fail'], 'v=spf1 -all'],
  ])('%s', async (_what, zone, args, text) => {
    const folder = workspace(zone)
    const { status, stdout } = await write(folder, 'spf', 'hollowmere.example', ...args)
    expect([status, stdout]).toEqual([0, expect.stringContaining(`"${text}"`)])
    expect(zoneIn(folder).match(/"v=spf1[^"]*"/g)).toEqual([`"${text}"`])
    // The proof beside it, and everything else, stays.
    expect(zoneIn(folder)).toContain(zone.includes('ferry-proof') ? '@ TXT "ferry-proof=41c2"\n' : 'NS')
  })

  test.each<[string[], RegExp]>([
    [[], /Say what to change/],
    [['--allow', 'mail.larkpost.example'], /include:mail\.larkpost\.example if/],
    [['--remove', 'a'], /a is not in the record:/],
    [['--end', 'never'], /must be fail/],
    [['v=spf1 moo -all'], /“moo” is not an SPF term/],
    [['v=spf1 +all'], /everyone/],
    [['--spell-out', '_spf.larkpost.example'], /use --live/],
  ])('%j is refused, and nothing is written', async (args, message) => {
    const folder = workspace()
    expect(await write(folder, 'spf', 'hollowmere.example', ...args)).toMatchObject({
      status: 2,
      stdout: '',
      stderr: expect.stringMatching(message),
    })
    expect(zoneIn(folder)).toBe(ZONE)
  })

  test('the eleventh lookup is refused', async () => {
    const folder = workspace()
    const many = Array.from({ length: 9 }, (_, i) => ['--allow', `a:h${i}.larkpost.example`]).flat()
    expect(await write(folder, 'spf', 'hollowmere.example', ...many)).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('at least 11 of 10'),
    })
  })

  test('what is copied keeps the include’s sign', async () => {
    const lark = `${HEAD}_spf TXT "v=spf1 ip4:198.51.100.0/27 ~all"\n`
    const folder = workspace(ZONE.replace(' include', ' ?include'), { 'zones/larkpost.example.zone': lark })
    expect((await write(folder, 'spf', 'hollowmere.example', '--spell-out', '_spf.larkpost.example')).status).toBe(0)
    expect(zoneIn(folder)).toContain('"v=spf1 mx ?ip4:198.51.100.0/27 ~all"')
  })

  test('what an include holds is copied with a note, and check sees when it has changed', async () => {
    const lark = `${HEAD}_spf TXT "v=spf1 ip4:198.51.100.0/27 include:_b.larkpost.example ~all"\n_b TXT "v=spf1 ip6:2001:db8:5::/48"\n`
    const folder = workspace(ZONE, { 'zones/larkpost.example.zone': lark })
    const { stdout } = await write(folder, 'spf', 'hollowmere.example', '--spell-out', '_spf.larkpost.example')
    expect(stdout).toContain('change without notice')
    expect(zoneIn(folder)).toMatch(
      /\n; copied from include:_spf\.larkpost\.example on \d{4}-\d\d-\d\d: ip4:198\.51\.100\.0\/27 ip6:2001:db8:5::\/48\n@ TXT "v=spf1 mx ip4:198\.51\.100\.0\/27 ip6:2001:db8:5::\/48 ~all"\n/,
    )
    const codes = async () =>
      (await run(folder, 'check', '--only', 'spf/copied-ranges-differ', '--json'))
        .json()
        .findings.map((each: any) => each.fix[0])
    expect(await codes()).toEqual([])
    writeFileSync(join(folder, 'zones/larkpost.example.zone'), lark.replace('100.0/27', '100.64/27'))
    expect(await codes()).toEqual(['hollowmere.example. TXT "v=spf1 mx ip6:2001:db8:5::/48 ip4:198.51.100.64/27 ~all"'])
  })
})

describe('write dkim', () => {
  test('a key is made, kept for its owner alone, never printed, never overwritten; the next one follows it', async () => {
    const folder = workspace()
    const made = await write(folder, 'dkim', 'hollowmere.example', '--selector', 'ferry1')
    const file = keyFile(folder, 'ferry1._domainkey.hollowmere.example.')
    const pem = readFileSync(file, 'utf8')
    expect([made.status, statSync(file).mode & 0o777, made.stdout.includes('PRIVATE')]).toEqual([0, 0o600, false])
    const published = (selector: string) =>
      [...zoneIn(folder).matchAll(new RegExp(`^${selector}\\._domainkey[^"]*((?:"[^"]*"\\s*)+)`, 'gm'))][0]![1]!
        .replace(/"\s*"/g, '')
        .replace(/"/g, '')
        .replace(/[\s)]+$/, '')
    expect(published('ferry1')).toBe(
      `v=DKIM1; k=rsa; p=${createPublicKey(pem).export({ type: 'spki', format: 'der' }).toString('base64')}`,
    )
    // Once more: the same key, nothing to change.
    expect((await write(folder, 'dkim', 'hollowmere.example', '--selector', 'ferry1')).stdout).toContain(
      'Nothing to change',
    )
    expect(readFileSync(file, 'utf8')).toBe(pem)
    const next = await write(folder, 'dkim', 'hollowmere.example', '--rotate', '--kind', 'ed25519')
    expect([next.status, next.stdout]).toEqual([0, expect.stringMatching(/Keep ferry1 for another\s+week/)])
    expect(published('ferry2')).toMatch(/^v=DKIM1; k=ed25519; p=.{44}$/)
    const revoke = ['dkim', 'hollowmere.example', '--selector', 'ferry1', '--revoke']
    expect(await write(folder, ...revoke)).toMatchObject({ status: 1, stderr: expect.stringContaining('too early') })
    expect((await write(folder, ...revoke, '--force')).status).toBe(0)
    expect(published('ferry1')).toBe('v=DKIM1; p=')
    expect((await run(folder, 'check', '--only', 'dkim', '--severity', 'warning', '--json')).json().findings).toEqual(
      [],
    )
  })

  test('a dry run, and a refusal, leave no key', async () => {
    const folder = workspace(`${ZONE}ferry1._domainkey A 192.0.2.1\nferry1._domainkey CNAME x.larkpost.example.\n`)
    await write(folder, 'dkim', 'hollowmere.example', '--selector', 'ferry2', '--dry-run')
    expect(existsSync(join(folder, 'keys'))).toBe(false)
    const locked = workspace()
    mkdirSync(join(locked, 'zones/hollowmere.example.zone.jnl'))
    expect((await write(locked, 'dkim', 'hollowmere.example', '--selector', 'ferry2')).status).toBe(2)
    expect(existsSync(join(locked, 'keys'))).toBe(false)
  })

  test('a key that is handed over, an alias, a row of them; and what is none', async () => {
    const folder = workspace()
    const ed = 'v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo='
    writeFileSync(join(folder, 'pasted.txt'), `s1._domainkey IN TXT ( "${ed.slice(0, 20)}"\n "${ed.slice(20)}" )\n`)
    expect(
      (await write(folder, 'dkim', 'hollowmere.example', '--selector', 'lark', '--key', 'pasted.txt')).status,
    ).toBe(0)
    expect(
      (
        await write(
          folder,
          'dkim',
          'hollowmere.example',
          '--alias',
          'q1=q1.keys.quillwing.example.',
          '--alias',
          'q2=q2.keys.quillwing.example.',
        )
      ).status,
    ).toBe(0)
    expect(zoneIn(folder)).toMatch(/lark\._domainkey TXT "v=DKIM1; k=ed25519; p=11qYA[^"]*"\n/)
    expect(zoneIn(folder).match(/q\d\._domainkey\s+CNAME\s+q\d\.keys\.quillwing\.example\./g)).toHaveLength(2)
    // An alias where a key stood takes its place.
    expect((await write(folder, 'dkim', 'hollowmere.example', '--selector', 'lark')).stderr).toContain(
      'already has a key',
    )
    expect(
      (
        await write(
          folder,
          'dkim',
          'hollowmere.example',
          '--selector',
          'lark',
          '--alias',
          'lark.keys.quillwing.example.',
          '--force',
        )
      ).status,
    ).toBe(0)
    expect(zoneIn(folder)).not.toContain('lark._domainkey TXT')
    for (const [args, message] of [
      [['--selector', 'x', '--key', 'nonsense!'], /neither a PEM file/],
      [['--selector', 'a b'], /not a valid selector/],
      [[], /give a selector/],
      [['--rotate'], /no key to rotate/],
      [['--rotate', '--revoke'], /exclude each other/],
      [['--selector', 'x', '--bits', '512'], /2048, 3072, 4096/],
      [['--selector', 'x', '--kind', 'dsa'], /rsa or ed25519/],
      [['--selector', 'gone', '--revoke'], /no key to revoke/],
    ] as const)
      expect(await write(folder, 'dkim', 'hollowmere.example', ...args)).toMatchObject({
        status: 2,
        stderr: expect.stringMatching(message),
      })
  })

  test('check sees that a kept key is not the published one', async () => {
    const folder = workspace()
    await write(folder, 'dkim', 'hollowmere.example', '--selector', 'a', '--kind', 'ed25519')
    await write(folder, 'dkim', 'hollowmere.example', '--selector', 'b', '--kind', 'ed25519')
    writeFileSync(
      keyFile(folder, 'a._domainkey.hollowmere.example.'),
      readFileSync(keyFile(folder, 'b._domainkey.hollowmere.example.')),
    )
    expect((await run(folder, 'check', '--only', 'dkim/private-key-differs', '--json')).json().findings).toMatchObject([
      { owner: 'a._domainkey.hollowmere.example.' },
    ])
    writeFileSync(keyFile(folder, 'a._domainkey.hollowmere.example.'), 'no key')
    expect((await run(folder, 'check', '--only', 'dkim', '--json')).json().findings).toMatchObject([
      { rule: 'dkim/private-key-unreadable' },
    ])
  })
})

describe('write dmarc', () => {
  test('from nothing to the next step; other tags stay', async () => {
    const folder = workspace()
    expect(await write(folder, 'dmarc', 'hollowmere.example', '--next')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('--reports'),
    })
    const texts: string[] = []
    for (const args of [
      ['--next', '--reports', 'dmarc@hollowmere.example'],
      ['fo=1'],
      ['--next', '--percent', '20', '--force'],
      ['--next', '--force'],
      ['--next', '--force'],
      ['fo='],
    ]) {
      expect((await write(folder, 'dmarc', 'hollowmere.example', ...args)).status).toBe(0)
      texts.push(/"v=DMARC1; ([^"]*)"/.exec(zoneIn(folder))![1]!.replace('rua=mailto:dmarc@hollowmere.example', 'RUA'))
    }
    expect(texts).toEqual([
      'p=none; RUA',
      'p=none; RUA; fo=1',
      'p=quarantine; RUA; fo=1; pct=20',
      'p=quarantine; RUA; fo=1',
      'p=reject; RUA; fo=1',
      'p=reject; RUA',
    ])
    expect((await write(folder, 'dmarc', 'hollowmere.example', '--next')).stdout).toMatch(/no stricter\s+policy/)
    expect(await write(folder, 'dmarc', 'hollowmere.example', 'p=none')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('weakens'),
    })
    expect((await write(folder, 'dmarc', 'hollowmere.example', 'p=none', '--force')).status).toBe(0)
  })

  test('reports to a kept domain write its consent, too; to another, print the line', async () => {
    const other = `${HEAD}@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"\n`
    const folder = workspace(ZONE + POLICY, { 'zones/lakepass.example.zone': other })
    const { status, json } = await write(
      folder,
      'dmarc',
      'hollowmere.example',
      '--reports',
      'd@lakepass.example',
      '--reports',
      'd@larkpost.example',
      '--json',
    )
    expect([status, json().sets[0].owner, json().also[0].sets[0].owner]).toEqual([
      0,
      'hollowmere.example._report._dmarc.lakepass.example.',
      '_dmarc.hollowmere.example.',
    ])
    expect(json().also[0].notes.join()).toContain('hollowmere.example._report._dmarc.larkpost.example. TXT "v=DMARC1"')
    expect(zoneIn(folder, 'lakepass.example')).toContain('hollowmere.example._report._dmarc TXT "v=DMARC1"\n')
    expect((await run(folder, 'check', '--only', 'dmarc', '--severity', 'warning', '--json')).json().findings).toEqual(
      [],
    )
  })

  test('where the policy is refused, no consent is written', async () => {
    const closed = `${HEAD}@ MX 0 .\n@ TXT "v=spf1 -all"\n`
    const folder = workspace(ZONE + POLICY, { 'zones/lakepass.example.zone': closed })
    expect((await write(folder, 'dmarc', 'hollowmere.example', '--reports', 'd@lakepass.example')).status).toBe(1)
    expect([zoneIn(folder), zoneIn(folder, 'lakepass.example')]).toEqual([ZONE + POLICY, closed])
  })

  test.each<[string[], RegExp]>([
    [['p=all'], /p=all is not a policy/],
    [['reject'], /is not a DMARC tag/],
    [['--percent', '0'], /1 to 100/],
    [[], /--next/],
    [['--next', 'p=reject'], /leave them out/],
  ])('%j is refused', async (args, message) =>
    expect(await write(workspace(ZONE + POLICY), 'dmarc', 'hollowmere.example', ...args)).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(message),
    }),
  )
})

describe('no mail, transport', () => {
  test('a domain that does no mail, as one change; one that takes mail is not silenced by mistake', async () => {
    const folder = workspace(`${HEAD}@ A 192.0.2.10\n@ TXT "ferry-proof=41c2"\n`)
    expect((await write(folder, 'no-mail', 'hollowmere.example', '--empty-keys')).status).toBe(0)
    for (const line of [
      '@ MX  0 .\n',
      '@ TXT "v=spf1 -all"\n',
      '_dmarc TXT "v=DMARC1; p=reject"\n',
      '*._domainkey TXT "v=DKIM1; p="\n',
      '@ TXT "ferry-proof=41c2"\n',
    ])
      expect(zoneIn(folder)).toContain(line)
    expect(readdirSync(join(folder, 'backups/hollowmere.example'))).toHaveLength(1)
    const taking = workspace(`${HEAD}@ A 192.0.2.10\n`, {
      'zones/lakepass.example.zone': `${HEAD}@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n`,
    })
    expect((await write(taking, 'no-mail', 'hollowmere.example', '--reports', 'd@lakepass.example')).status).toBe(0)
    expect(zoneIn(taking, 'lakepass.example')).toContain('hollowmere.example._report._dmarc TXT "v=DMARC1"')
    expect(await write(workspace(), 'no-mail', 'hollowmere.example')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('receives mail now'),
    })
  })

  test('the policy’s text is made of the MX set, and its id is another at each change', async () => {
    const folder = workspace(`${ZONE}mta-sts A 192.0.2.80\n`)
    const text = () => readFileSync(join(folder, 'policies/hollowmere.example.mta-sts.txt'), 'utf8')
    const id = () => /id=(\w+)/.exec(zoneIn(folder))![1]
    expect((await write(folder, 'mta-sts', 'hollowmere.example')).status).toBe(0)
    const first = id()
    expect(text()).toBe('version: STSv1\r\nmode: testing\r\nmx: mail.hollowmere.example\r\nmax_age: 604800\r\n')
    expect((await write(folder, 'mta-sts', 'hollowmere.example')).stdout).toContain('Nothing to change')
    expect((await write(folder, 'mta-sts', 'hollowmere.example', '--mode', 'enforce', '--max-age', '1d')).status).toBe(
      0,
    )
    expect([id() === first, text()]).toEqual([false, expect.stringMatching(/mode: enforce[\s\S]*max_age: 86400/)])
    // A new exchange that the policy does not list is an error before it is published.
    expect(await write(folder, 'mx', 'hollowmere.example', '10 mail', '20 mx.larkpost.example.')).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('mta-sts/exchange-not-listed'),
    })
    expect((await write(folder, 'mta-sts', 'hollowmere.example', '--also', 'mx.larkpost.example')).status).toBe(0)
    expect(text()).toContain('mx: mail.hollowmere.example\r\nmx: mx.larkpost.example\r\n')
    expect((await write(folder, 'mx', 'hollowmere.example', '10 mail', '20 mx.larkpost.example.')).status).toBe(0)
    expect(await write(workspace(), 'mta-sts', 'hollowmere.example')).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('mta-sts/host-missing'),
    })
    expect(await write(workspace(HEAD), 'mta-sts', 'hollowmere.example')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('Write MX first'),
    })
  })

  test('where TLS reports go', async () => {
    const folder = workspace()
    expect(
      (await write(folder, 'tls-rpt', 'hollowmere.example', 'tls@larkpost.example', 'https://larkpost.example/tls'))
        .status,
    ).toBe(0)
    expect(without(zoneIn(folder), '')).toContain(
      '_smtp._tls TXT "v=TLSRPTv1; rua=mailto:tls@larkpost.example,https://larkpost.example/tls"',
    )
    expect((await write(folder, 'tls-rpt', 'hollowmere.example', 'nobody')).status).toBe(2)
  })
})

describe('sender, and show --live', () => {
  const open: { close(): unknown }[] = []
  afterEach(async () => {
    for (const each of open.splice(0)) await each.close()
  })
  /** A server that knows the mail host's zone, and refuses everything else. */
  async function elsewhere(): Promise<string> {
    const folder = folderWith({
      'larkpost.example.zone': `${HEAD}_spf TXT "v=spf1 ip4:198.51.100.0/27 a:out.larkpost.example ~all"\nout A 198.51.100.70\nk1 CNAME k2\nk2 TXT "v=DKIM1; p="\n`,
    })
    const zones = loadZones(bareFiles([join(folder, 'larkpost.example.zone')]))
    const server = await serve((query, id) => respond(zones, query, id))
    open.push(server)
    return `127.0.0.1:${server.port}`
  }
  const KEYED = `${ZONE + POLICY.replace('p=none', 'p=reject')}s1._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="\ns2._domainkey CNAME k1.larkpost.example.\n`
  const sender = (folder: string, ...args: string[]) => run(folder, 'sender', ...args)

  test.each<[string, string[], number, object]>([
    [
      'an exchange',
      ['192.0.2.25', '--envelope', 'a@hollowmere.example'],
      0,
      { passesBy: ['SPF'], disposition: 'passes' },
    ],
    [
      'a host of the service',
      ['198.51.100.70', '--envelope', 'a@hollowmere.example'],
      0,
      { passesBy: ['SPF'], spf: { lookups: 3 } },
    ],
    [
      'a forger',
      ['203.0.113.9', '--envelope', 'a@hollowmere.example'],
      1,
      { passesBy: [], disposition: 'reject', spf: { result: 'softfail' } },
    ],
    [
      'a forger with a key',
      [
        '203.0.113.9',
        '--envelope',
        'a@larkpost.example',
        '--from',
        'a@hollowmere.example',
        '--signed-by',
        'hollowmere.example:s1',
      ],
      0,
      { passesBy: ['DKIM'] },
    ],
    [
      'a key that is revoked, behind aliases',
      ['203.0.113.9', '--envelope', 'a@hollowmere.example', '--signed-by', 'hollowmere.example:s2'],
      1,
      { signatures: [{ key: 'revoked' }] },
    ],
    [
      'a bounce',
      ['192.0.2.25', '--envelope', '<>', '--helo', 'mail.hollowmere.example', '--from', 'hollowmere.example'],
      1,
      { spf: { result: 'none' } },
    ],
  ])('%s', async (_what, args, status, expected) => {
    const ran = await sender(workspace(KEYED), ...args, '--at', await elsewhere(), '--json')
    expect([ran.status, ran.json()]).toEqual([status, expect.objectContaining({ format: 1 })])
    expect(ran.json()).toMatchObject(expected)
  })

  test('offline, and as published', async () => {
    const folder = workspace(KEYED)
    expect((await sender(folder, '192.0.2.25', '--envelope', 'a@hollowmere.example', '--offline')).status).toBe(0)
    const unknown = await sender(folder, '203.0.113.9', '--envelope', 'a@hollowmere.example', '--offline')
    expect([unknown.status, unknown.stdout]).toEqual([
      3,
      expect.stringMatching(/No verdict[\s\S]*_spf\.larkpost\.example TXT/),
    ])
    // The kept zone is not published there.
    expect(
      await sender(
        folder,
        '192.0.2.25',
        '--envelope',
        'a@hollowmere.example',
        '--as-published',
        '--at',
        await elsewhere(),
      ),
    ).toMatchObject({
      status: 3,
      stdout: expect.stringContaining('published data'),
    })
    const words = (await sender(folder, '203.0.113.9', '--envelope', 'a@hollowmere.example', '--at', await elsewhere()))
      .stdout
    for (const said of [
      'include:_spf.larkpost.example  no match',
      '    ip4:198.51.100.0/27',
      'public suffix list of 20',
      'reject it',
    ])
      expect(words).toContain(said)
  })

  test.each<[string[], RegExp]>([
    [['here', '--envelope', 'a@b.example'], /“here” is not a valid IP address/],
    [['192.0.2.1', '--envelope', 'a'], /not a valid email address/],
    [['192.0.2.1', '--envelope', '<>'], /--helo/],
    [['192.0.2.1', '--envelope', 'a@b.example', '--offline', '--as-published'], /use one of them/],
    [['192.0.2.1', '--envelope', 'a@b.example', '--as-published'], /nobody to ask/],
    [['192.0.2.1', '--envelope', 'a@b.example', '--signed-by', 'a:b:c'], /DOMAIN:SELECTOR/],
  ])('%j', async (args, message) =>
    expect(await sender(workspace(), ...args)).toMatchObject({ status: 2, stderr: expect.stringMatching(message) }),
  )

  test('the tree of includes, with what is known and with what is asked for', async () => {
    const folder = workspace()
    expect((await run(folder, 'show', 'hollowmere.example')).stdout).toMatch(
      /at least 2 of 10\n {4}1 {3}├ mx\n {4}1\+ {2}└ include:_spf\.larkpost\.example \(not looked up\)/,
    )
    expect((await run(folder, 'show', 'hollowmere.example', '--live', '--at', await elsewhere())).stdout).toMatch(
      / 3 of 10\n {4}1 {2}├ mx\n {4}2 {2}└ include:_spf\.larkpost\.example\n {4}1 {4}└ a:out\.larkpost\.example/,
    )
  })
})

test('a key file that is junk, or a folder, breaks no command but the one that needs it', async () => {
  const folder = folderWith({
    'bramblefront.yaml': 'zones: [zones/*.zone]\n',
    'zones/hollowmere.example.zone': `${HEAD}s1._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="\n`,
    'keys/s1._domainkey.hollowmere.example.pem': 'junk',
    'keys/s2._domainkey.hollowmere.example.pem/inside': 'a folder where a key belongs',
  })
  for (const args of [
    ['show'],
    ['write', 'address', 'www.hollowmere.example', '192.0.2.1'],
    ['timing', 'hollowmere.example'],
  ])
    expect(await run(folder, ...args)).toMatchObject({ status: 0, stderr: '' })
  const { findings } = (await run(folder, 'check', '--json')).json()
  expect(findings.map(({ rule }: any) => rule)).toContain('dkim/private-key-unreadable')
  expect(await run(folder, 'write', 'dkim', 'hollowmere.example', '--selector', 's2')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('cannot be used'),
  })
})

test('internationalized envelopes, HELO names, report addresses and file names are as owners are', async () => {
  const folder = folderWith({
    'fähre.example.zone': `$TTL 60\n@ SOA ns1 hostmaster 1 2 3 4 5\n@ NS ns1\n@ TXT "v=spf1 ip4:192.0.2.1 -all"\n`,
  })
  const file = ['--file', 'fähre.example.zone']
  const { status, stdout } = await run(
    folder,
    'sender',
    '192.0.2.1',
    '--envelope',
    'post@fähre.example',
    '--helo',
    'mail.fähre.example',
    '--offline',
    '--json',
    ...file,
  )
  expect([status, JSON.parse(stdout)]).toEqual([
    0,
    expect.objectContaining({
      envelope: 'post@xn--fhre-loa.example',
      helo: 'mail.xn--fhre-loa.example',
      passesBy: ['SPF'],
    }),
  ])
  expect(
    (await run(folder, 'write', 'dmarc', 'fähre.example', '--next', '--reports', 'post@fähre.example', ...file)).stdout,
  ).toContain('mailto:post@xn--fhre-loa.example')
  expect(
    (await run(folder, 'write', 'tls-rpt', 'fähre.example', 'mailto:post@fähre.example', ...file)).stdout,
  ).toContain('mailto:post@xn--fhre-loa.example')
})

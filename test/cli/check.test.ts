import { cpSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Ajv } from 'ajv'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, type Ran, run } from './program.ts'

const demo = (): string => {
  const folder = folderWith()
  cpSync('demo', folder, { recursive: true })
  return folder
}
const CONFIG = 'zones: [zones/*.zone]\n'
const SOUND_HEAD = HEAD.replace('hostmaster ', 'hostmaster.upland-dns.example. ')
const rules = (ran: Ran): string[] => ran.json().findings.map((each: any) => each.rule)

describe('the demo workspace', () => {
  test('every planted fault, once', async () => {
    const ran = await run(demo(), 'check', '--severity', 'warning', '--json')
    expect(ran.status).toBe(1)
    const found = ran
      .json()
      .findings.map(
        (each: any) => `${each.file.replace(/^zones\/|\.zone$/g, '')}:${each.line} ${each.severity} ${each.rule}`,
      )
    expect(found).toEqual([
      '2.0.192.in-addr.arpa:8 error ptr/owner-form',
      '2.0.192.in-addr.arpa:11 warning zones/target-missing',
      'hollowmere-freight.example:6 error mx/target-is-alias',
      'hollowmere-freight.example:10 error dmarc/report-consent',
      'hollowmere-rail.example:4 warning soa/mailbox-at-sign',
      'hollowmere-rail.example:4 warning soa/timers',
      'hollowmere-rail.example:4 warning soa/timers',
      'hollowmere-rail.example:7 error ns/target-without-address',
      'hollowmere-rail.example:10 warning zones/follow-drift',
      'hollowmere-rail.example:11 warning svcb/hints-differ',
      'hollowmere-rail.example:12 error caa/flags',
      'hollowmere-rail.example:12 error caa/value',
      'hollowmere-rail.example:14 error name/not-an-a-label',
      'hollowmere-rail.example:15 warning name/not-a-host-name',
      'hollowmere-rail.example:16 warning address/not-public',
      'hollowmere-rail.example:17 warning name/doubled-zone',
      'hollowmere-rail.example:19 error dname/below',
      'hollowmere-rail.example:20 warning wildcard/shadowed',
      'hollowmere-rail.example:24 warning mx/only-below',
      'hollowmere-rail.example:24 warning spf/not-inherited',
      'hollowmere-rail.example:26 warning set/duplicate-record',
      'hollowmere-rail.example:27 warning spf/not-inherited',
      'hollowmere-rail.example:27 error mx/target-fronted',
      'hollowmere-rail.example:28 warning name/placeholder',
      'hollowmere-rail.example:29 warning tlsa/no-exchange',
      'hollowmere-rail.example:29 error tlsa/values',
      'hollowmere-rail.example:30 error cname/front-for-mail',
      'hollowmere-rail.example:31 error txt/unquoted-spaces',
      'hollowmere-rail.example:32 warning txt/typographic-quotes',
      'hollowmere-rail.example:33 error mail/report-box-closed',
      'hollowmere-rail.example:33 error dmarc/report-consent',
      'hollowmere-rail.example:34 warning dmarc/wrong-place',
      'hollowmere-rail.example:35 error spf/syntax',
      'hollowmere-rail.example:36 error dkim/key-unreadable',
      'hollowmere-rail.example:45 error naptr/replacement-missing',
      'hollowmere-rail.example:48 warning ns/child-differs',
      'hollowmere-rail.example:49 warning dnssec/algorithm',
      'hollowmere-rail.example:50 error zones/same-name-two-zones',
      'hollowmere.example:17 warning cname/target-missing',
      'hollowmere.example:20 error mx/target-is-alias',
      'hollowmere.example:26 error spf/several',
      'hollowmere.example:37 error srv/owner-form',
      'hollowmere.example:38 error name/doubled-zone',
      'lakepass.example:8 warning dmarc/undefended',
    ])
  })

  test('what is allowed is counted, not shown; an exception that matches nothing is told with its line', async () => {
    const ran = (await run(demo(), 'check', '--json')).json()
    expect(ran.excepted.map((each: any) => each.reason)).toContain('one MX host is enough for freight')
    expect(ran.findings.map((each: any) => each.rule)).not.toContain('address/documentation')
    const unused = ran.findings.find(
      (each: any) => each.rule === 'config/exception-unused' && each.owner === 'lakepass.example.',
    )
    expect(unused).toMatchObject({ file: 'bramblefront.yaml', severity: 'advice', owner: 'lakepass.example.' })
    expect(readFileSync('demo/bramblefront.yaml', 'utf8').split('\n')[unused.line - 1]).toContain('ns/single')
  })
})

describe('choosing', () => {
  test.each<[string[], string[]]>([
    [
      ['--only', 'soa'],
      ['soa/mailbox-at-sign', 'soa/timers', 'soa/timers'],
    ],
    [
      ['--only', 'caa,tlsa/values'],
      ['caa/flags', 'caa/value', 'tlsa/values'],
    ],
    [
      ['--only', 'tlsa', '--only', 'dname', '--except', 'tlsa/unsigned'],
      ['dname/below', 'tlsa/no-exchange', 'tlsa/values'],
    ],
    [
      ['--severity', 'error', '--only', 'mx'],
      ['mx/target-is-alias', 'mx/target-fronted', 'mx/target-is-alias'],
    ],
    [['quay.hollowmere-rail.example'], ['ns/child-differs', 'dnssec/algorithm', 'zones/same-name-two-zones']],
    [
      ['HOLLOWMERE-freight.example', 'call.hollowmere-rail.example'],
      ['mx/target-is-alias', 'dkim/none', 'dmarc/report-consent', 'naptr/replacement-missing'],
    ],
  ])('%j', async (options, expected) =>
    expect(rules(await run(demo(), 'check', '--json', ...options))).toEqual(expected),
  )

  test.each<[string[], RegExp]>([
    [['--only', 'mx/singel'], /mx\/singel” is neither a rule nor a family of rules; did you mean mx\/single\?/],
    [['--severity', 'bad'], /--severity bad: must be error, warning, advice/],
    [['--fail-on', 'nothing'], /--fail-on nothing: must be/],
    [['--format', 'xml'], /--format xml: must be text, json, csv, sarif/],
    [['lakeside.example'], /lakeside\.example is neither a file here nor a name in your zones/],
    [['--published', 'gone'], /--published gone: no such folder/],
  ])('%j is refused', async (options, message) => {
    const { status, stderr } = await run(demo(), 'check', ...options)
    expect(status).toBe(2)
    expect(stderr).toMatch(message)
  })

  test.each<[string, number]>([
    ['error', 0],
    ['warning', 1],
    ['advice', 1],
  ])('--fail-on %s', async (severity, status) => {
    const folder = folderWith({ 'hollowmere.example.zone': `${SOUND_HEAD}www CNAME gone\n` })
    expect((await run(folder, 'check', 'hollowmere.example.zone', '--fail-on', severity)).status).toBe(status)
  })
})

describe('for people', () => {
  test('zone by zone, name by name, the worst first', async () => {
    const { stdout } = await run(demo(), 'check', 'zones/hollowmere.example.zone')
    const heads = stdout.split('\n').filter((line) => /^(?:[a-z_].*\.$|error|warning|advice)/.test(line))
    expect(heads.map((line) => line.replace(/ {2}line.*/, '').replace(/ +/g, ' '))).toEqual([
      'hollowmere.example.',
      'error mx/target-is-alias',
      'error spf/several',
      'advice address/documentation',
      'advice address/documentation',
      'caldavs._tcp.hollowmere.example.',
      'error srv/owner-form',
      '_ferrykiosk._tcp.hollowmere.example.',
      'error name/doubled-zone',
      'timetable.hollowmere.example.',
      'warning cname/target-missing',
      '_dmarc.hollowmere.example.',
      'advice dmarc/monitoring-only',
    ])
  })

  test('one mistake at many names is shown once, and with --all each time', async () => {
    const lines = Array.from({ length: 214 }, (_, i) => `h${i} MX 10 gone\n`).join('')
    const folder = folderWith({ 'hollowmere.example.zone': SOUND_HEAD + lines })
    const folded = (await run(folder, 'check', 'hollowmere.example.zone', '--only', 'mx/target-without-address')).stdout
    expect(folded.match(/^error/gm)).toHaveLength(1)
    expect(folded).toContain('and 213 more times, at h1.hollowmere.example., h2.hollowmere.example.')
    expect(folded).toContain('214 errors')
    const all = (await run(folder, 'check', 'hollowmere.example.zone', '--only', 'mx/target-without-address', '--all'))
      .stdout
    expect(all.match(/^error/gm)).toHaveLength(214)
  })
})

describe('between files', () => {
  const two = {
    'a.example.zone': `${SOUND_HEAD}@ MX 10 mail.b.example.\n@ MX 20 mx.larkpost.example.\n`,
    'b.example.zone': `${SOUND_HEAD}mail CNAME host\nhost A 192.0.2.1\n`,
  }

  test('several bare files are kept together; one alone knows nothing of the other', async () => {
    const folder = folderWith(two)
    expect(
      rules(
        await run(
          folder,
          'check',
          'a.example.zone',
          'b.example.zone',
          '--only',
          'mx,cname',
          '--severity',
          'warning',
          '--json',
        ),
      ),
    ).toEqual(['mx/target-is-alias'])
    expect(
      rules(await run(folder, 'check', 'a.example.zone', '--only', 'mx,cname', '--severity', 'warning', '--json')),
    ).toEqual([])
  })

  test('--with-workspace: a changed file, the others known, nothing said of them', async () => {
    const folder = folderWith({
      'bramblefront.yaml': CONFIG,
      'zones/a.example.zone': two['a.example.zone'],
      'zones/b.example.zone': `${SOUND_HEAD}www CNAME gone\n`,
    })
    mkdirSync(join(folder, 'changed'))
    writeFileSync(join(folder, 'changed/b.example.zone'), two['b.example.zone'])
    expect(
      rules(
        await run(
          folder,
          'check',
          'zones/a.example.zone',
          '--with-workspace',
          '--only',
          'mx',
          '--severity',
          'warning',
          '--json',
        ),
      ),
    ).toEqual(['mx/target-without-address'])
    // A file from elsewhere takes the place of the kept zone with its name.
    const ran = await run(
      folder,
      'check',
      'changed/b.example.zone',
      'zones/a.example.zone',
      '--with-workspace',
      '--only',
      'mx',
      '--severity',
      'warning',
      '--json',
    )
    expect(rules(ran)).toEqual(['mx/target-is-alias'])
    expect(ran.json().findings[0].message).toContain('changed/b.example.zone')
  })

  test('one zone twice is an error; in two views it is not, and each view is checked', async () => {
    const files = {
      'zones/in.zone': `$ORIGIN a.example.\n${SOUND_HEAD}www CNAME host\nhost A 10.0.0.1\n`,
      'zones/out.zone': `$ORIGIN a.example.\n${SOUND_HEAD}www CNAME gone\n`,
    }
    expect(
      rules(
        await run(
          folderWith({ 'bramblefront.yaml': CONFIG, ...files }),
          'check',
          '--only',
          'zones/zone-twice',
          '--json',
        ),
      ),
    ).toEqual(['zones/zone-twice'])
    const views = `zones:\n  - {file: zones/in.zone, view: inside, audience: private}\n  - {file: zones/out.zone, view: outside}\n`
    const ran = await run(
      folderWith({ 'bramblefront.yaml': views, ...files }),
      'check',
      '--severity',
      'warning',
      '--json',
    )
    expect(ran.json().findings.map((each: any) => [each.rule, each.file])).toEqual([
      ['cname/target-missing', 'zones/out.zone'],
    ])
    const twice = { ...files, 'zones/out.zone': `${files['zones/out.zone']}gone A 192.0.2.1\ngone A 192.0.2.1\n` }
    const fixed = await run(folderWith({ 'bramblefront.yaml': views, ...twice }), 'check', '--fix', '--yes')
    expect(fixed.stdout).toContain('Not fixed: set/duplicate-record at gone.a.example, line 8: it is in another view')
    const folder = folderWith({
      'bramblefront.yaml': views,
      ...files,
      'zones/in.zone': `${files['zones/in.zone']}host A 10.0.0.1\n`,
    })
    expect((await run(folder, 'check', '--fix', '--yes')).stdout).toContain('Written: 1 finding fixed')
    expect(readFileSync(join(folder, 'zones/in.zone'), 'utf8').match(/^host A/gm)).toHaveLength(1)
  })

  test('--published: data that changed under the same serial', async () => {
    const now = { 'bramblefront.yaml': CONFIG, 'zones/a.example.zone': `${SOUND_HEAD}www A 192.0.2.2\n` }
    const folder = folderWith({
      ...now,
      'was/a.example.zone': `${SOUND_HEAD}www A 192.0.2.1\n`,
      'same/a.example.zone': now['zones/a.example.zone'],
    })
    expect(rules(await run(folder, 'check', '--published', 'was', '--severity', 'error', '--json'))).toEqual([
      'soa/serial-not-advanced',
    ])
    expect(rules(await run(folder, 'check', '--published', 'same', '--severity', 'error', '--json'))).toEqual([])
  })
})

describe('--fix', () => {
  const file = `; kept as it is
$TTL 3600
@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026010101 7200 900 1209600 3600
@ NS ns1.upland-dns.example.
@ NS ns2.upland-dns.example.
@     MX 10 mx.b.example
@     MX 20 mail.hollowmere.example
mail  A  192.0.2.25 ; the host
      A  192.0.2.25
      TXT “quoted”
Fähre A  192.0.2.26
guess CNAME site.co.uk
key   TXT "ferry-key=${'A'.repeat(300)}"
`
  const files = {
    'bramblefront.yaml': CONFIG,
    'zones/hollowmere.example.zone': file,
    'zones/b.example.zone': `${SOUND_HEAD}mx A 192.0.2.30\nmx AAAA 2001:db8::30\n`,
  }

  test('shows the difference, and writes nothing unless it is agreed to', async () => {
    const folder = folderWith(files)
    const { stdout, status } = await run(folder, 'check', '--fix')
    expect(status).toBe(1)
    expect(stdout).toContain('      6 was  @     MX 10 mx.b.example\n      7 was  @     MX 20 mail.hollowmere.example')
    expect(stdout).toContain('now  @     MX 10 mx.b.example.')
    expect(stdout).toContain('call again with --yes')
    expect(readFileSync(join(folder, 'zones/hollowmere.example.zone'), 'utf8')).toBe(file)
    expect(readdirSync(folder)).not.toContain('backups')
  })

  test('--yes: what has one right answer is written, a guess is not, and the rest keeps its octets', async () => {
    const folder = folderWith(files)
    const { status, stdout } = await run(folder, 'check', '--fix', '--yes')
    const after = readFileSync(join(folder, 'zones/hollowmere.example.zone'), 'utf8')
    const serial = /(20\d{8}) 7200/.exec(after)![1]!
    expect(Number(serial)).toBeGreaterThan(2026010101)
    expect(after).toBe(
      file
        .replace('2026010101', serial)
        .replace('mx.b.example', 'mx.b.example.')
        .replace('20 mail.hollowmere.example', '20 mail.hollowmere.example.')
        .replace('      A  192.0.2.25\n', '')
        .replace('“quoted”', '"quoted"')
        .replace('Fähre', 'xn--fhre-loa')
        .replace(`"ferry-key=${'A'.repeat(300)}"`, `( "ferry-key=${'A'.repeat(245)}" "${'A'.repeat(55)}" )`),
    )
    expect(status).toBe(0)
    expect(stdout).toContain('6 findings fixed in 1 zone')
    const copy = readdirSync(join(folder, 'backups/hollowmere.example'))[0]!
    expect(readFileSync(join(folder, 'backups/hollowmere.example', copy), 'utf8')).toBe(file)
    expect(rules(await run(folder, 'check', '--except', 'spf,dmarc', '--severity', 'warning', '--json'))).toEqual([
      'name/final-dot-missing',
    ])
  })

  test('--json says what was put right and what was left', async () => {
    const ran = (await run(folderWith(files), 'check', '--fix', '--yes', '--json', '--only', 'set,name')).json()
    expect([ran.written, ran.fixed.map((each: any) => each.rule).sort(), ran.left]).toEqual([
      true,
      ['name/doubled-zone', 'name/final-dot-missing', 'name/not-an-a-label', 'set/duplicate-record'],
      [],
    ])
  })

  test('a repair that would bring an error is left, with the reason', async () => {
    const folder = folderWith({
      'bramblefront.yaml': CONFIG,
      'zones/hollowmere.example.zone': `${SOUND_HEAD}www CNAME www.hollowmere.example\nmail A 192.0.2.1\nmail A 192.0.2.1\n`,
    })
    const { stdout } = await run(folder, 'check', '--fix', '--yes')
    expect(stdout).toMatch(
      /Not fixed: name\/doubled-zone at www\.hollowmere\.example, line 5: it would cause\s+cname\/loop/,
    )
    expect(readFileSync(join(folder, 'zones/hollowmere.example.zone'), 'utf8')).toContain(
      'www CNAME www.hollowmere.example\nmail A 192.0.2.1\n',
    )
  })

  test('a missing reverse name is added to the kept reverse zone; a signed file is left alone', async () => {
    const forward = `${SOUND_HEAD}@ MX 10 mail\n@ MX 20 mx.larkpost.example.\nmail A 192.0.2.25\n`
    const reverse = `${SOUND_HEAD}30 PTR mx.larkpost.example.\n`
    const files = {
      'bramblefront.yaml': CONFIG,
      'zones/hollowmere.example.zone': forward,
      'zones/2.0.192.in-addr.arpa.zone': reverse,
    }
    const folder = folderWith(files)
    expect((await run(folder, 'check', '--fix', '--yes', '--only', 'mx')).status).toBe(0)
    expect(readFileSync(join(folder, 'zones/2.0.192.in-addr.arpa.zone'), 'utf8')).toContain(
      '30 PTR mx.larkpost.example.\n25 PTR mail.hollowmere.example.\n',
    )
    const signed = folderWith({ ...files, 'zones/2.0.192.in-addr.arpa.zone': `${reverse}30 NSEC @ PTR NSEC\n` })
    expect((await run(signed, 'check', '--fix', '--yes', '--only', 'mx')).stdout).toMatch(
      /Not fixed: mx\/host-without-reverse .* the file is signed/s,
    )
  })
})

/** The parts of the SARIF 2.1.0 schema that a log of findings uses, as the standard (OASIS, section 3) requires them. */
const SARIF = {
  type: 'object',
  required: ['version', 'runs'],
  properties: {
    version: { const: '2.1.0' },
    $schema: { type: 'string' },
    runs: {
      type: 'array',
      items: {
        type: 'object',
        required: ['tool', 'results'],
        properties: {
          tool: {
            type: 'object',
            required: ['driver'],
            additionalProperties: false,
            properties: {
              driver: {
                type: 'object',
                required: ['name'],
                properties: {
                  name: { type: 'string' },
                  semanticVersion: { type: 'string' },
                  rules: { type: 'array', uniqueItems: true, items: { $ref: '#/$defs/rule' } },
                },
                additionalProperties: false,
              },
            },
          },
          originalUriBaseIds: {
            type: 'object',
            additionalProperties: {
              type: 'object',
              required: ['uri'],
              properties: { uri: { type: 'string', pattern: '^file:.*/$' } },
            },
          },
          columnKind: { enum: ['utf16CodeUnits', 'unicodeCodePoints'] },
          results: { type: 'array', items: { $ref: '#/$defs/result' } },
        },
        additionalProperties: false,
      },
    },
  },
  additionalProperties: false,
  $defs: {
    message: {
      type: 'object',
      required: ['text'],
      properties: { text: { type: 'string', minLength: 1 } },
      additionalProperties: false,
    },
    level: { enum: ['none', 'note', 'warning', 'error'] },
    rule: {
      type: 'object',
      required: ['id'],
      properties: {
        id: { type: 'string' },
        shortDescription: { $ref: '#/$defs/message' },
        fullDescription: { $ref: '#/$defs/message' },
        help: { $ref: '#/$defs/message' },
        defaultConfiguration: {
          type: 'object',
          properties: { level: { $ref: '#/$defs/level' } },
          additionalProperties: false,
        },
        properties: { type: 'object' },
      },
      additionalProperties: false,
    },
    result: {
      type: 'object',
      required: ['message'],
      properties: {
        ruleId: { type: 'string' },
        ruleIndex: { type: 'integer', minimum: 0 },
        level: { $ref: '#/$defs/level' },
        message: { $ref: '#/$defs/message' },
        locations: { type: 'array', items: { $ref: '#/$defs/location' } },
        suppressions: {
          type: 'array',
          items: {
            type: 'object',
            required: ['kind'],
            properties: { kind: { enum: ['inSource', 'external'] }, justification: { type: 'string' } },
            additionalProperties: false,
          },
        },
      },
      additionalProperties: false,
    },
    location: {
      type: 'object',
      properties: {
        physicalLocation: {
          type: 'object',
          required: ['artifactLocation'],
          properties: {
            artifactLocation: {
              type: 'object',
              properties: { uri: { type: 'string', pattern: '^[^\\\\ ]+$' }, uriBaseId: { type: 'string' } },
              additionalProperties: false,
            },
            region: {
              type: 'object',
              properties: {
                startLine: { type: 'integer', minimum: 1 },
                startColumn: { type: 'integer', minimum: 1 },
                endColumn: { type: 'integer', minimum: 1 },
              },
              additionalProperties: false,
            },
          },
          additionalProperties: false,
        },
        logicalLocations: {
          type: 'array',
          items: {
            type: 'object',
            properties: { fullyQualifiedName: { type: 'string' } },
            additionalProperties: false,
          },
        },
      },
      additionalProperties: false,
    },
  },
}

test('--format sarif: a log with rules, places and what is allowed', async () => {
  const folder = demo()
  const ran = await run(folder, 'check', '--format', 'sarif')
  expect(ran.status).toBe(1)
  const log = ran.json()
  const valid = new Ajv({ allErrors: true, strict: false }).compile(SARIF)
  expect(valid(log) || valid.errors).toBe(true)
  const [{ tool, results }] = log.runs
  const plain = (await run(folder, 'check', '--json')).json()
  expect(results).toHaveLength(plain.findings.length + plain.excepted.length)
  for (const result of results) expect(tool.driver.rules[result.ruleIndex].id).toBe(result.ruleId)
  const alias = results.find((each: any) => each.ruleId === 'mx/target-is-alias')
  expect(alias.locations[0].physicalLocation).toEqual({
    artifactLocation: { uri: 'zones/hollowmere-freight.example.zone', uriBaseId: 'WORKSPACE' },
    region: { startLine: 6, startColumn: 42, endColumn: 66 },
  })
  expect(results.filter((each: any) => each.suppressions).map((each: any) => each.ruleId)).toContain('mx/single')
  expect(results.filter((each: any) => each.level === 'note').length).toBeGreaterThan(0)
})

import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import type { Zones } from '../../../src/core/model/zones.ts'
import { CATALOGUE } from '../../../src/core/rules/catalogue.ts'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import type { Finding, Rule } from '../../../src/core/rules/rule.ts'
import { checkHost, keepTogether } from '../../../src/index.ts'
import { apart } from './small.ts'

/** Findings above advice. */
const faults = async (zones: Zones): Promise<Finding[]> =>
  (await check(zones, { now: new Date('2026-11-23T08:00:00Z') })).findings.filter(
    ({ severity }) => severity !== 'advice',
  )

const SOUND = join(import.meta.dirname, '../../fixtures/sound')

describe('of a well-run zone there is nothing but advice', () => {
  test.each(readdirSync(SOUND))('%s', async (folder) => {
    const files = readdirSync(join(SOUND, folder)).map((file) => ({
      input: readFileSync(join(SOUND, folder, file)),
      zone: file.replace(/\.zone$/, ''),
      file,
    }))
    const zones = keepTogether(files)
    expect(zones.count).toBeGreaterThan(15)
    expect(await faults(zones)).toEqual([])
  })
})

describe('one mistake, one finding', () => {
  const rules = async (text: string): Promise<string[]> =>
    apart(await faults(exampleZones(text))).map(({ rule, severity }) => `${severity} ${rule}`)
  test.each([
    [
      'an exchange without its final dot takes over the severity of what follows from it',
      '@ MX 10 mail.hollowmere.example\nmail A 192.0.2.25',
      ['error name/doubled-zone'],
    ],
    [
      'an alias without it stays a warning',
      'www CNAME site.hollowmere.example\nsite A 192.0.2.1',
      ['warning name/doubled-zone'],
    ],
    [
      'a record whose version is cut between two strings is one',
      '@ MX 10 mx.larkpost.example.\n@ TXT "v=sp" "f1 mx -all"\n_dmarc TXT "v=DM" "ARC1; p=none"',
      ['warning dmarc/no-reports'],
    ],
    ['two records, one of them cut', '@ TXT "v=spf1" " -all"\n@ TXT "v=spf1 mx -all"', ['error spf/several']],
    ['an address as exchange', '@ MX 10 192.0.2.1', ['error mx/target-is-address']],
    ['a URL as target', 'www CNAME https://hollowmere.example', ['error cname/target-is-url']],
    ['an alias at the top', '@ CNAME www\nwww A 192.0.2.1', ['error cname/at-apex']],
    [
      'the same record twice with different TTLs',
      'www 60 A 192.0.2.1\nwww 300 A 192.0.2.1',
      ['warning set/duplicate-record'],
    ],
    [
      'two mistakes are two findings',
      '@ MX 10 gone\n@ MX 20 alias\nalias CNAME host\nhost A 192.0.2.1',
      ['error mx/target-without-address', 'error mx/target-is-alias'],
    ],
  ])('%s', async (_what, text, expected) => expect(await rules(text)).toEqual(expected))
})

describe('nothing is said of what is not known', () => {
  test('a zone that others add to', async () => {
    const zones = exampleZones(
      '@ MX 10 gone\nwww CNAME nothing\n_sip._tcp SRV 0 0 5060 gone\nhost TXT "x"\n@ MX 20 host',
    )
    zones.zones[0]!.complete = false
    expect(await faults(zones)).toEqual([])
  })
  test('names below a cut, below a DNAME, and in no kept zone', async () => {
    expect(
      apart(
        await faults(
          exampleZones(
            'isle NS ns.upland-dns.example.\nold DNAME x.example.\n@ MX 10 a.isle\nwww CNAME a.old\n@ MX 30 a.larkpost.example.',
          ),
        ),
      ),
    ).toEqual([])
  })
})

test('findings come by file and line, with the words of the other place', async () => {
  const { findings, counts } = await check(
    exampleZones({
      zones: {
        'hollowmere.example': '@ MX 10 mx.lakepass.example.\nwww A 192.0.2.1\nwww CNAME mail\nmail A 192.0.2.2',
        'lakepass.example': 'mx CNAME mail\nmail A 192.0.2.3',
      },
    }),
  )
  const standing = apart(findings).filter(({ severity }) => severity !== 'advice')
  expect(standing.map(({ rule, file, line }: Finding) => [rule, file, line])).toEqual([
    ['mx/target-is-alias', 'hollowmere.example.zone', 5],
    ['cname/other-data', 'hollowmere.example.zone', 7],
  ])
  expect(standing[0]!.message).toContain('line 5 of lakepass.example.zone')
  expect(standing[1]!.message).toContain('A (line 6)')
  expect(counts).toMatchObject({ error: 2, warning: 2 })
})

test('a large set and a name with many records cost no more than they are', async () => {
  const many = Array.from({ length: 20_000 }, (_, i) => `many A 203.${i >> 8}.113.${i & 255}\n`).join('')
  const types = Array.from({ length: 3000 }, (_, i) => `types TYPE${i + 1000} \\# 1 00\n`).join('')
  const findings = await faults(exampleZones(`${many}many A 203.0.113.7\n${types}types TXT "x"\n`))
  expect(findings.map(({ rule, line }) => [rule, line])).toEqual([['set/duplicate-record', 20_005]])
})

describe('a rule that fails is told once, and everything else is still found', () => {
  const sound = CATALOGUE[0]!
  const failing = (visit: Rule['visit']): Rule => ({ ...sound, code: 'test/fails', visit })
  const fail = (): never => {
    throw new Error('oops')
  }
  test.each<[string, Rule['visit']]>([
    ['asked whether it applies', { applies: fail }],
    ['at a zone', { zone: fail }],
    ['at a set', { set: { 1: fail } }],
    ['at several records', { several: fail }],
    ['at a record', { record: { when: ~0, visit: fail } }],
    ['at a problem', { problem: fail }],
    ['at the end', { finish: fail }],
    ['at the end, later', { finish: () => Promise.reject(new Error('oops')) }],
    ['at an exception', { exception: fail }],
  ])('%s', async (_when, visit) => {
    const zones = exampleZones('a 0 A 192.0.2.1\na A 192.0.2.2\nb A 192.0.2\n@ MX 10 a..b')
    const exceptions = [{ rule: 'mx/single', reason: 'one is enough' }]
    const codes = async (catalogue: readonly Rule[]): Promise<string[]> =>
      (await check(zones, { exceptions, catalogue })).findings.map(({ rule }) => rule).sort()
    expect(await codes([failing(visit), ...CATALOGUE])).toEqual([...(await codes(CATALOGUE)), 'internal/error'].sort())
    const { findings } = await check(zones, { exceptions, catalogue: [failing(visit)] })
    expect(findings.find(({ rule }) => rule === 'internal/error')!.message).toMatch(/test\/fails.*oops/)
  })
})

describe('control characters anywhere are told, and nothing fails', () => {
  const CONTROLS = ['\\000', '\\009', '\\010', '\\013', '\\031', '\\127', '\\128', '\\255']
  const TEXTS = [
    'abc~',
    'v=spf1 include:x~.example -all',
    'v=spf1~ -all',
    'v=spf1 ip4:192.0.2.1~ a:~ redirect=~',
    'v=DMARC1; p=none; rua=mailto:a@~',
    'v=DKIM1; p=~',
    '~v=spf1 -all',
    'v=STSv1; id=~',
    'v=TLSRPTv1; rua=~',
  ]
  test.each(TEXTS)('%s', async (text) => {
    for (const owner of ['@', '_dmarc', 's1._domainkey', '_mta-sts', '_smtp._tls'])
      for (const control of CONTROLS) {
        const { findings } = await check(
          exampleZones(`${owner} TXT "${text.replaceAll('~', control)}"\n${owner} TXT "abc"`),
        )
        expect(findings.filter(({ rule }) => rule === 'internal/error')).toEqual([])
        const wire = text.replaceAll('~', String.fromCharCode(Number(control.slice(1))))
        const { result } = await checkHost({
          ip: '192.0.2.1',
          helo: 'a.example',
          mailFrom: 'x@a.example',
          lookup: () => ({ data: [wire] }),
        })
        expect(['none', 'permerror', 'fail', 'pass', 'neutral', 'softfail', 'temperror']).toContain(result)
      }
  })
})

describe('a serial that was not advanced is repaired from what was published, in its style and by serial arithmetic', () => {
  const text = (serial: number, address: string): string =>
    `$TTL 3600\n@ SOA ns1.upland-dns.example. h.upland-dns.example. ${serial} 7200 900 1209600 3600\nwww A ${address}\n`
  test.each([
    [7, 7, '8'],
    [4294967290, 10, '11'],
    [4294967295, 4294967295, '1'],
    [2026112301, 2026112301, '2026112302'],
    [2026010101, 2026010101, '2026112301'],
    [5, 2026112305, '2026112306'],
  ])('%i after %i: %s', async (serial, published, next) => {
    const zones = (number: number, address: string): Zones =>
      keepTogether([{ input: text(number, address), zone: 'hollowmere.example' }])
    const around = { published: zones(published, '192.0.2.1'), now: new Date('2026-11-23T08:00:00Z') }
    const { findings } = await check(zones(serial, '192.0.2.2'), around)
    const found = findings.filter(({ rule }) => rule === 'soa/serial-not-advanced')[0]!
    expect(found.repair && 'text' in found.repair && found.repair.text).toBe(next)
  })
})

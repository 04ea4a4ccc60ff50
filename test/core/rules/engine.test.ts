import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import type { Finding } from '../../../src/core/rules/rule.ts'
import type { Zones } from '../../../src/core/zone/zones.ts'
import { keepTogether } from '../../../src/index.ts'
import { apart } from './small.ts'

/** Findings above advice. */
const faults = async (zones: Zones): Promise<Finding[]> =>
  (await check(zones, { now: new Date('2026-11-23T08:00:00Z') })).findings.filter(({ severity }) => severity !== 'advice')

const SOUND = join(import.meta.dirname, '../../fixtures/sound')

describe('of a well-run zone there is nothing but advice', () => {
  test.each(readdirSync(SOUND))('%s', async (folder) => {
    const files = readdirSync(join(SOUND, folder)).map((file) => ({ input: readFileSync(join(SOUND, folder, file)), zone: file.replace(/\.zone$/, ''), file }))
    const zones = keepTogether(files)
    expect(zones.count).toBeGreaterThan(15)
    expect(await faults(zones)).toEqual([])
  })
})

describe('one mistake, one finding', () => {
  const rules = async (text: string): Promise<string[]> => apart(await faults(exampleZones(text))).map(({ rule, severity }) => `${severity} ${rule}`)
  test.each([
    [
      'an exchange without its final dot takes over the severity of what follows from it',
      '@ MX 10 mail.hollowmere.example\nmail A 192.0.2.25',
      ['error name/doubled-zone'],
    ],
    ['an alias without it stays a warning', 'www CNAME site.hollowmere.example\nsite A 192.0.2.1', ['warning name/doubled-zone']],
    ['an address as exchange', '@ MX 10 192.0.2.1', ['error mx/target-is-address']],
    ['a URL as target', 'www CNAME https://hollowmere.example', ['error cname/target-is-url']],
    ['an alias at the top', '@ CNAME www\nwww A 192.0.2.1', ['error cname/at-top']],
    ['the same record twice with different TTLs', 'www 60 A 192.0.2.1\nwww 300 A 192.0.2.1', ['warning set/duplicate-record']],
    [
      'two mistakes are two findings',
      '@ MX 10 gone\n@ MX 20 alias\nalias CNAME host\nhost A 192.0.2.1',
      ['error mx/target-without-address', 'error mx/target-is-alias'],
    ],
  ])('%s', async (_what, text, expected) => expect(await rules(text)).toEqual(expected))
})

describe('nothing is said of what is not known', () => {
  test('a zone that others add to', async () => {
    const zones = exampleZones('@ MX 10 gone\nwww CNAME nothing\n_sip._tcp SRV 0 0 5060 gone\nhost TXT "x"\n@ MX 20 host')
    zones.zones[0].complete = false
    expect(await faults(zones)).toEqual([])
  })
  test('names below a cut, below a DNAME, and in no kept zone', async () => {
    expect(
      apart(await faults(exampleZones('isle NS ns.upland-dns.example.\nold DNAME x.example.\n@ MX 10 a.isle\n@ MX 20 a.old\n@ MX 30 a.larkpost.example.'))),
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
  expect(standing[0].message).toContain('line 5 of lakepass.example.zone')
  expect(standing[1].message).toContain('A (line 6)')
  expect(counts).toMatchObject({ error: 2, warning: 2 })
})

test('a large set and a name with many records cost no more than they are', async () => {
  const many = Array.from({ length: 20_000 }, (_, i) => `many A 203.${i >> 8}.113.${i & 255}\n`).join('')
  const types = Array.from({ length: 3000 }, (_, i) => `types TYPE${i + 1000} \\# 1 00\n`).join('')
  const findings = await faults(exampleZones(`${many}many A 203.0.113.7\n${types}types TXT "x"\n`))
  expect(findings.map(({ rule, line }) => [rule, line])).toEqual([['set/duplicate-record', 20_005]])
})

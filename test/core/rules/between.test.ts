/** Rules whose matter lies in several zones, in names that are not there, or in what a server would answer: DNS's own semantics. */
import { describe, expect, test } from 'vitest'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleZones } from '../../../src/core/rules/example.ts'
import type { Example, Finding } from '../../../src/core/rules/rule.ts'
import { Folding, selected } from '../../../src/core/rules/select.ts'
import { apart } from './small.ts'

const findings = async (example: Example): Promise<Finding[]> =>
  (await check(exampleZones(example), exampleAround(example))).findings
const said = async (example: Example, rule: string): Promise<string[]> =>
  (await findings(example)).filter((each) => each.rule === rule).map((each) => `${each.severity} ${each.owner}`)

describe('names as DNS has them', () => {
  test.each<[string, string, string, string[]]>([
    [
      'case does not matter',
      '@ MX 10 MAIL\nmail CNAME Host\nHOST A 192.0.2.1',
      'mx/target-is-alias',
      ['error hollowmere.example.'],
    ],
    [
      'a wildcard answers for a name that does not exist',
      'www CNAME any.lake\n*.lake A 192.0.2.1',
      'cname/target-missing',
      [],
    ],
    [
      'not for one that exists without that type',
      '@ MX 10 pier.lake\n*.lake A 192.0.2.1\npier.lake TXT "x"',
      'mx/target-without-address',
      ['error hollowmere.example.'],
    ],
    [
      'not below a name that exists',
      'www CNAME a.pier.lake\n*.lake A 192.0.2.1\npier.lake TXT "x"',
      'cname/target-missing',
      ['warning www.hollowmere.example.'],
    ],
    ['an empty non-terminal exists', 'www CNAME lake\na.lake A 192.0.2.1', 'cname/target-missing', []],
    ['and is no host', '@ MX 10 lake\na.lake A 192.0.2.1', 'mx/target-without-address', ['error hollowmere.example.']],
    [
      'an alias by a wildcard is an alias',
      '_sip._udp SRV 0 0 5060 any.lake\n*.lake CNAME host\nhost A 192.0.2.1',
      'srv/target-is-alias',
      ['error _sip._udp.hollowmere.example.'],
    ],
    [
      'nothing is known below a cut',
      '@ MX 10 mail.isle\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.',
      'mx/target-without-address',
      [],
    ],
    [
      'but glue is',
      '@ MX 10 ns.isle\nisle NS ns.isle\nisle NS ns2.upland-dns.example.\nns.isle A 192.0.2.1',
      'mx/target-without-address',
      [],
    ],
    [
      'nothing is said of data below a cut but that it is there',
      'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.\nwww.isle CNAME gone',
      'cname/target-missing',
      [],
    ],
    ['nor of a name below a DNAME', 'www CNAME a.old\nold DNAME archive.larkpost.example.', 'cname/target-missing', []],
    ['two equal records are one', '@ TXT "v=spf1 -all"\n@ TXT "v=spf1 -all"', 'spf/several', []],
    ['the same for aliases', 'www CNAME a\nwww CNAME a\na A 192.0.2.1', 'cname/several', []],
  ])('%s', async (_what, text, rule, expected) => expect(await said(text, rule)).toEqual(expected))
})

describe('across kept zones', () => {
  const two = (hollowmere: string, lakepass: string): Example => ({
    zones: { 'hollowmere.example': hollowmere, 'lakepass.example': lakepass },
  })
  test.each<[string, Example, string, string[]]>([
    [
      'a loop through three zones',
      {
        zones: {
          'a.example': 'w CNAME w.b.example.',
          'b.example': 'w CNAME w.c.example.',
          'c.example': 'w CNAME w.a.example.',
        },
      },
      'cname/loop',
      ['error w.a.example.'],
    ],
    [
      'a chain that ends elsewhere',
      two('w CNAME x.lakepass.example.', 'x CNAME y\ny A 192.0.2.1'),
      'cname/chain',
      ['advice w.hollowmere.example.'],
    ],
    [
      'an exchange behind another zone’s wildcard',
      two('@ MX 10 m.lakepass.example.', '* CNAME host\nhost A 192.0.2.1'),
      'mx/target-is-alias',
      ['error hollowmere.example.'],
    ],
    [
      'one exchange by two names',
      two('@ MX 10 m.lakepass.example.\n@ MX 20 n\nn A 192.0.2.1', 'm A 192.0.2.1'),
      'mx/same-host-twice',
      ['advice hollowmere.example.'],
    ],
    [
      'an include in a kept zone',
      two('@ TXT "v=spf1 include:_spf.lakepass.example -all"', 'www A 192.0.2.1'),
      'spf/include-without-record',
      ['error hollowmere.example.'],
    ],
    [
      'one that a wildcard answers',
      two('@ TXT "v=spf1 include:_spf.lakepass.example -all"', '* TXT "v=spf1 -all"'),
      'spf/include-without-record',
      [],
    ],
    [
      'reports to a parked domain',
      two('_dmarc TXT "v=DMARC1; p=none; rua=mailto:a@lakepass.example,mailto:b@larkpost.example"', '@ MX 0 .'),
      'mail/report-box-closed',
      ['error _dmarc.hollowmere.example.'],
    ],
    [
      'a service in a kept zone without its host',
      two('_sip._udp SRV 0 0 5060 phone.lakepass.example.', 'www A 192.0.2.1'),
      'srv/target-without-address',
      ['error _sip._udp.hollowmere.example.'],
    ],
    [
      'a zone that others add to',
      {
        zones: { 'hollowmere.example': '@ MX 10 m.lakepass.example.', 'lakepass.example': 'www A 192.0.2.1' },
        traits: { 'lakepass.example': { complete: false } },
      },
      'mx/target-without-address',
      [],
    ],
    [
      'a parent that does not delegate',
      { zones: { 'hollowmere.example': 'www A 192.0.2.1', 'isle.hollowmere.example': 'www A 192.0.2.2' } },
      'ns/delegation-missing',
      ['error isle.hollowmere.example.'],
    ],
    [
      'a parent that others add to',
      {
        zones: { 'hollowmere.example': 'www A 192.0.2.1', 'isle.hollowmere.example': 'www A 192.0.2.2' },
        traits: { 'hollowmere.example': { complete: false } },
      },
      'ns/delegation-missing',
      [],
    ],
    [
      'glue of the parent is no second zone',
      {
        zones: {
          'hollowmere.example': 'isle NS ns.isle\nisle NS ns2.upland-dns.example.\nns.isle A 192.0.2.1',
          'isle.hollowmere.example': 'ns A 192.0.2.1',
        },
      },
      'zones/same-name-two-zones',
      [],
    ],
  ])('%s', async (_what, example, rule, expected) => expect(await said(example, rule)).toEqual(expected))

  test('the other place is named, by file and line', async () => {
    const finding = apart(
      await findings(
        two('@ MX 10 mx.lakepass.example.\n@ MX 20 m2.larkpost.example.', 'host A 192.0.2.1\nmx CNAME host'),
      ),
    )[0]!
    expect(finding.message).toContain(
      'mx.lakepass.example. CNAME host.lakepass.example. (line 6 of lakepass.example.zone)',
    )
  })

  test('ten thousand zones cost what they are: every one is looked at, and none twice', async () => {
    const zones = Object.fromEntries(
      Array.from({ length: 3000 }, (_, i) => [
        `z${i}.example`,
        `@ MX 10 mail.z${i + 1}.example.\n@ MX 20 mx.larkpost.example.\n${i % 1000 === 1 ? '' : 'mail A 198.51.100.1'}\n`,
      ]),
    )
    const found = (await findings({ zones })).filter((each) => each.severity === 'error')
    expect(found.map((each) => each.owner)).toEqual(['z0.example.', 'z1000.example.', 'z2000.example.'])
  })
})

describe('private and public', () => {
  test.each<[string, string[]]>([
    ['hollowmere.example', ['warning nas.hollowmere.example.']],
    ['ferries.lan', []],
    ['office.home.arpa', []],
    ['3.2.10.in-addr.arpa', []],
    ['c.f.ip6.arpa', []],
    ['2.0.192.in-addr.arpa', ['warning nas.2.0.192.in-addr.arpa.']],
  ])('an inside address in %s', async (zone, expected) =>
    expect(await said({ zones: { [zone]: 'nas A 10.1.2.3\nweb A 192.0.2.1' } }, 'address/not-public')).toEqual(
      expected,
    ),
  )

  test('a zone whose addresses are all private is told so once, and asked for nothing public', async () => {
    const lines =
      '@ A 10.0.0.1\n@ MX 10 mail\nmail A 10.0.0.25\nnas AAAA fd00::7\nns1 A 10.0.0.53\nns2 A 10.0.0.54\n_sip._tcp SRV 0 0 5060 mail'
    expect((await findings(lines)).map(({ rule }) => rule)).toEqual(['address/not-public'])
    // One address that is public, and it is a public zone.
    expect((await findings(`${lines}\nwww A 192.0.2.10`)).map(({ rule }) => rule)).toContain('spf/missing')
  })
  test('a bare file of inside addresses is told once', async () => {
    const lines = Array.from({ length: 50 }, (_, i) => `h${i} A 10.0.0.${i}`).join('\n')
    const found = (await findings(lines)).filter((each) => each.rule === 'address/not-public')
    expect(found.map((each) => each.fix)).toEqual([
      ['if the zone is for internal clients only, set “audience: private” for it in bramblefront.yaml'],
    ])
    expect(found[0]!.message).toContain('none of the 50 addresses')
  })
})

describe('exceptions', () => {
  const zone = 'a MX 10 gone\nb MX 10 gone'
  const allow = (...exceptions: { rule: string; at?: string; reason: string }[]): Example => ({
    zones: { 'hollowmere.example': zone },
    around: { exceptions },
  })
  test('for a rule at a name, and for a rule wherever it speaks', async () => {
    const rule = 'mx/target-without-address'
    expect(await said(allow({ rule, at: 'a.hollowmere.example.', reason: 'soon' }), rule)).toEqual([
      'error b.hollowmere.example.',
    ])
    expect(await said(allow({ rule, reason: 'soon' }), rule)).toEqual([])
    const example = allow({ rule, reason: 'soon' }, { rule: 'mx/v6-only', reason: 'never' })
    const { excepted, counts } = await check(exampleZones(example), exampleAround(example))
    expect([excepted.map((each) => each.reason), counts.error]).toEqual([['soon', 'soon'], 0])
    expect(await said(example, 'config/exception-unused')).toEqual(['advice '])
  })
})

describe('choosing and folding', () => {
  test('equal mistakes at several names fall together, others do not', async () => {
    const all = await findings('a MX 10 gone\nb MX 10 gone\nc MX 10 lost\nd CNAME gone')
    const errors = selected(all, { least: 'error' })
    const folding = new Folding()
    for (const each of errors) folding.add(each)
    expect(folding.groups.map(({ first, names }) => [first.owner[0], ...names.map((each) => each[0])])).toEqual([
      ['a', 'b'],
      ['c'],
    ])
    expect([...selected(all, { only: ['cname'] })].map((each) => each.rule)).toEqual(['cname/target-missing'])
    expect(selected(all, { names: ['b.hollowmere.example.'], except: ['mx/single', 'spf', 'dmarc'] })).toHaveLength(1)
    expect(selected(all, { files: new Set(['other']) })).toHaveLength(0)
  })
})

import { describe, expect, test } from 'vitest'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import type { Finding } from '../../../src/core/rules/rule.ts'

const SOUND: Record<string, Record<string, string>> = {
  'a small one': {
    'hollowmere.example':
      '@ A 192.0.2.10\nwww CNAME @\n@ MX 10 mail\nmail A 192.0.2.25\nmail AAAA 2001:db8::25\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:d@hollowmere.example"\n',
  },
  'one with delegations, wildcards, keys and reverse names': {
    'hollowmere.example': `@ MX 10 mail
mail A 192.0.2.25
*.piers A 192.0.2.30
*.piers MX 10 mail
isle NS ns1.isle
isle NS ns2.upland-dns.example.
isle DS 1 13 2 ${'ab'.repeat(32)}
ns1.isle A 192.0.2.53
hidden.isle MX 10 nowhere.isle
@ DNSKEY 257 3 13 ${'A'.repeat(86)}==
old DNAME lakepass.example.
_sip._tcp SRV 0 0 5060 any.piers
_imaps._tcp SRV 0 0 993 host.old
_25._tcp.mail TLSA 3 1 1 ${'cd'.repeat(32)}
_acme-challenge CNAME proof.checks
alias CNAME some.piers
x MX 10 mx.isle
`,
    'lakepass.example': 'host A 192.0.2.40\n@ MX 0 .\n@ TXT "v=spf1 -all"\n',
    '2.0.192.in-addr.arpa': '25 PTR mail.hollowmere.example.\n1 CNAME 1.0/25\n0/25 NS ns1.upland-dns.example.\n0/25 NS ns2.upland-dns.example.\n',
  },
  'one with internationalised names': { 'xn--fhre-loa.example': '@ MX 10 xn--bro-hoa\nxn--bro-hoa A 192.0.2.1\nwww CNAME xn--bro-hoa\n' },
}

describe('a sound zone gives no finding', () => {
  test.each(Object.entries(SOUND))('%s', async (_what, zones) => expect((await check(exampleZones({ zones }))).findings).toEqual([]))
})

describe('one mistake, one finding', () => {
  const rules = async (text: string): Promise<string[]> => (await check(exampleZones(text))).findings.map(({ rule, severity }) => `${severity} ${rule}`)
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
    expect((await check(zones)).findings).toEqual([])
  })
  test('names below a cut, below a DNAME, and in no kept zone', async () => {
    expect(
      (await check(exampleZones('isle NS ns.upland-dns.example.\nold DNAME x.example.\n@ MX 10 a.isle\n@ MX 20 a.old\n@ MX 30 a.larkpost.example.'))).findings,
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
  expect(findings.map(({ rule, file, line }: Finding) => [rule, file, line])).toEqual([
    ['mx/target-is-alias', 'hollowmere.example.zone', 5],
    ['cname/other-data', 'hollowmere.example.zone', 7],
  ])
  expect(findings[0].message).toContain('line 5 of lakepass.example.zone')
  expect(findings[1].message).toContain('A (line 6)')
  expect(counts).toEqual({ error: 2, warning: 0, advice: 0 })
})

test('a large set and a name with many records cost no more than they are', async () => {
  const many = Array.from({ length: 20_000 }, (_, i) => `many A 10.0.${i >> 8}.${i & 255}\n`).join('')
  const types = Array.from({ length: 3000 }, (_, i) => `types TYPE${i + 1000} \\# 1 00\n`).join('')
  const { findings } = await check(exampleZones(`${many}many A 10.0.0.7\n${types}types TXT "x"\n`))
  expect(findings.map(({ rule, line }) => [rule, line])).toEqual([['set/duplicate-record', 20_005]])
})

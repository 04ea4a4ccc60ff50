import { describe, expect, test } from 'vitest'
import { answer } from '../../../src/core/knowledge/answer.ts'
import { rdataText } from '../../../src/core/records/rdata.ts'
import { parseType, typeText } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { keepTogether } from '../../../src/index.ts'

const zones = (texts: Record<string, string>) => exampleZones({ zones: texts })
function ask(model: ReturnType<typeof zones>, name: string, type: string): string {
  const { kind, answers } = answer(model, name, parseType(type)!)
  return [
    kind,
    ...answers.flatMap((set) =>
      set.data.map((data) => `${set.owner} ${typeText(set.type)} ${rdataText(set.type, data)}`),
    ),
  ].join(' | ')
}

describe('the zone of RFC 4592 §2.2.1, asked as §2.2.1 does', () => {
  const model = zones({
    example: `*.example. TXT "this is a wildcard"
*.example. MX 10 host1.example.
sub.*.example. TXT "this is not a wildcard"
host1.example. A 192.0.2.1
_ssh._tcp.host1.example. SRV 0 0 22 host1.example.
_ssh._tcp.host2.example. SRV 0 0 22 host2.example.
subdel.example. NS ns.example.com.
subdel.example. NS ns.example.net.`,
  })
  test.each([
    ['host3.example.', 'MX', 'data | host3.example. MX 10 host1.example.'],
    ['host3.example.', 'A', 'no-data'],
    ['foo.bar.example.', 'TXT', 'data | foo.bar.example. TXT "this is a wildcard"'],
    ['host1.example.', 'MX', 'no-data'],
    ['sub.*.example.', 'MX', 'no-data'],
    ['_telnet._tcp.host1.example.', 'SRV', 'no-name'],
    ['host.subdel.example.', 'A', 'referral'],
    ['ghost.*.example.', 'MX', 'no-name'],
    ['host2.example.', 'A', 'no-data'],
  ])('%s %s', (name, type, expected) => expect(ask(model, name, type)).toBe(expected))
})

describe('aliases, cuts and several zones', () => {
  const model = zones({
    'hollowmere.example': `www CNAME site
site A 192.0.2.10
out CNAME site.northlight.example.
far CNAME host.lakepass.example.
one CNAME two
two CNAME one
gone CNAME nothing
*.wild CNAME site
isle NS ns1.isle
ns1.isle A 192.0.2.53
hidden.isle TXT "never answered"
kept NS ns1.upland-dns.example.
wrong.kept A 192.0.2.66`,
    'lakepass.example': 'host A 192.0.2.11',
    'kept.hollowmere.example': 'right A 192.0.2.67',
  })
  test.each([
    [
      'WWW.hollowmere.example.',
      'A',
      'data | WWW.hollowmere.example. CNAME site.hollowmere.example. | site.hollowmere.example. A 192.0.2.10',
    ],
    ['www.hollowmere.example.', 'CNAME', 'data | www.hollowmere.example. CNAME site.hollowmere.example.'],
    ['www.hollowmere.example.', 'AAAA', 'no-data | www.hollowmere.example. CNAME site.hollowmere.example.'],
    ['out.hollowmere.example.', 'A', 'alias | out.hollowmere.example. CNAME site.northlight.example.'],
    [
      'far.hollowmere.example.',
      'A',
      'data | far.hollowmere.example. CNAME host.lakepass.example. | host.lakepass.example. A 192.0.2.11',
    ],
    [
      'one.hollowmere.example.',
      'A',
      'alias | one.hollowmere.example. CNAME two.hollowmere.example. | two.hollowmere.example. CNAME one.hollowmere.example.',
    ],
    ['gone.hollowmere.example.', 'A', 'no-name | gone.hollowmere.example. CNAME nothing.hollowmere.example.'],
    [
      'x.wild.hollowmere.example.',
      'A',
      'data | x.wild.hollowmere.example. CNAME site.hollowmere.example. | site.hollowmere.example. A 192.0.2.10',
    ],
    ['isle.hollowmere.example.', 'NS', 'referral'],
    ['ns1.isle.hollowmere.example.', 'A', 'referral'],
    ['hidden.isle.hollowmere.example.', 'TXT', 'referral'],
    ['right.kept.hollowmere.example.', 'A', 'data | right.kept.hollowmere.example. A 192.0.2.67'],
    ['wrong.kept.hollowmere.example.', 'A', 'no-name'],
    [
      'kept.hollowmere.example.',
      'NS',
      'data | kept.hollowmere.example. NS ns1.upland-dns.example. | kept.hollowmere.example. NS ns2.upland-dns.example.',
    ],
    ['kept.hollowmere.example.', 'DS', 'no-data'],
    ['elsewhere.example.', 'A', 'not-kept'],
  ])('%s %s', (name, type, expected) => expect(ask(model, name, type)).toBe(expected))

  test('a DNAME rewrites what is below it, not itself; too long a name is said', () => {
    const target = `${'a'.repeat(60)}.${'b'.repeat(60)}.${'c'.repeat(60)}`
    const below = zones({
      'hollowmere.example': `old DNAME new\nold TXT "itself"\nhost.new A 192.0.2.1\nlong DNAME ${target}\nout DNAME lakepass.example.`,
    })
    const rewritten =
      'old.hollowmere.example. DNAME new.hollowmere.example. | host.old.hollowmere.example. CNAME host.new.hollowmere.example.'
    expect(ask(below, 'host.old.hollowmere.example.', 'A')).toBe(
      `data | ${rewritten} | host.new.hollowmere.example. A 192.0.2.1`,
    )
    expect(ask(below, 'host.old.hollowmere.example.', 'CNAME')).toBe(`data | ${rewritten}`)
    expect(ask(below, 'old.hollowmere.example.', 'TXT')).toBe('data | old.hollowmere.example. TXT "itself"')
    expect(ask(below, 'old.hollowmere.example.', 'A')).toBe('no-data')
    expect(ask(below, 'x.old.hollowmere.example.', 'A')).toMatch(/^no-name \| old/)
    expect(ask(below, 'x.out.hollowmere.example.', 'A')).toMatch(/^alias \| out/)
    expect(answer(below, `${'d'.repeat(60)}.long.hollowmere.example.`, 1).rcode).toBe(6)
  })

  test('a referral carries its servers and their glue, a denial the SOA record', () => {
    const referral = answer(model, 'x.isle.hollowmere.example.', 1)
    expect([
      referral.authoritative,
      referral.authority.map((set) => typeText(set.type)),
      referral.additional.map((set) => set.owner),
    ]).toEqual([false, ['NS'], ['ns1.isle.hollowmere.example.']])
    const denial = answer(model, 'nothing.hollowmere.example.', 1)
    expect([denial.rcode, denial.authoritative, denial.authority.map((set) => typeText(set.type))]).toEqual([
      3,
      true,
      ['SOA'],
    ])
  })
})

test('an empty name above the cut of a kept zone exists: it has no data, and no wildcard answers below it', () => {
  const head = '@ SOA ns hostmaster 1 2 3 4 5\n'
  const zones = keepTogether([
    { input: `$TTL 1\n${head}* A 192.0.2.1\na.b NS ns.a.b\n`, zone: 'up.example' },
    { input: `$TTL 1\n${head}@ NS ns\n`, zone: 'a.b.up.example' },
  ])
  const kinds = ['b.up.example.', 'x.b.up.example.', 'x.up.example.', 'a.b.up.example.', 'x.a.b.up.example.'].map(
    (name) => answer(zones, name, 1).kind,
  )
  expect(kinds).toEqual(['no-data', 'no-name', 'data', 'no-data', 'no-name'])
})

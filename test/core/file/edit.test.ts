import { posix } from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { editZone } from '../../../src/core/change/edit.ts'
import type { SetChange } from '../../../src/core/file/edit/changes.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { DROPPED, Zones } from '../../../src/core/model/zones.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { parseRdata, rdataKey } from '../../../src/core/records/rdata.ts'
import { parseType } from '../../../src/core/records/types.ts'

const ZONE = 'hollowmere.example.'
const NOW = new Date('2026-11-23T08:00:00Z')
const origin = nameToWire(ZONE) as Uint8Array

/** "mail A 192.0.2.1 | 192.0.2.2" as a change; "mail A" alone removes; "mail 300 A …" states the TTL. */
function change(words: string): SetChange {
  const [, owner, ttl, type = '', values] = /^(\S+)(?: (\d+))? ([A-Z]+)(?: (.*))?$/.exec(words)!
  const number = parseType(type)!
  const data = (values ?? '').split(' | ').filter(Boolean)
  return {
    owner: owner === '@' ? ZONE : `${owner}.${ZONE}`,
    type: number,
    ttl: ttl === undefined ? undefined : Number(ttl),
    data: data.map((value) => {
      const parsed = parseRdata(number, value, origin)
      if (!('wire' in parsed)) throw new Error(parsed.message)
      return parsed.wire
    }),
  }
}

function edit(before: string, ...changes: string[]): string {
  const edited = editZone(octetsOf(before), ZONE, changes.map(change))
  if ('refused' in edited) throw new Error(edited.refused)
  return new TextDecoder().decode(edited.octets)
}

const HEAD = '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster 1 7200 900 1209600 3600\n'

describe('an edit leaves every other octet as it is', () => {
  test.each([
    [
      'a value in its place, comment and columns kept',
      '@    3600 IN  MX  10 mail  ; the office\n',
      '@ MX 10 mail2',
      '@    3600 IN  MX  10 mail2  ; the office\n',
    ],
    [
      'a second record behind the first, in its columns',
      '@    3600 IN  MX  10 mail\nwww  3600 IN  A   192.0.2.1\n',
      '@ MX 10 mail | 20 mail2',
      '@    3600 IN  MX  10 mail\n@    3600 IN  MX  20 mail2\nwww  3600 IN  A   192.0.2.1\n',
    ],
    [
      'a blank owner like the neighbour’s',
      'www\tA 192.0.2.1\n\tA 192.0.2.2\nend A 192.0.2.9\n',
      'www A 192.0.2.1 | 192.0.2.2 | 192.0.2.3',
      'www\tA 192.0.2.1\n\tA 192.0.2.2\n\tA 192.0.2.3\nend A 192.0.2.9\n',
    ],
    ['a removed first line hands its owner on', 'www   A 192.0.2.1\n      TXT "x"\n', 'www A', 'www   TXT "x"\n'],
    [
      'a new set beside the same owner',
      'www A 192.0.2.1\n    TXT "x"\nend A 192.0.2.9\n',
      'www AAAA 2001:db8::1',
      'www A 192.0.2.1\n    TXT "x"\n    AAAA 2001:db8::1\nend A 192.0.2.9\n',
    ],
    [
      'a new host among the hosts',
      'www A 192.0.2.1\nmail AAAA 2001:db8::1\n@ TXT "x"\n_sip._udp SRV 0 0 5060 www\n',
      'ftp A 192.0.2.2',
      'www A 192.0.2.1\nftp A 192.0.2.2\nmail AAAA 2001:db8::1\n@ TXT "x"\n_sip._udp SRV 0 0 5060 www\n',
    ],
    [
      'a key beside what signs, not beside any text',
      's1._domainkey CNAME s1.larkpost.example.\nwww A 192.0.2.1\n@ TXT "x"\n',
      's2._domainkey TXT "v=DKIM1; p=AAAA"',
      's1._domainkey CNAME s1.larkpost.example.\ns2._domainkey TXT   "v=DKIM1; p=AAAA"\nwww A 192.0.2.1\n@ TXT "x"\n',
    ],
    [
      'the first of its purpose at the end',
      'www A 192.0.2.1\n@ MX 10 www\n',
      '_sip._udp SRV 0 0 5060 www.hollowmere.example.',
      'www A 192.0.2.1\n@ MX 10 www\n_sip._udp SRV 0 0 5060 www\n',
    ],
    [
      'a new owner is not put between a name and its blank lines',
      'one A 192.0.2.1\n    TXT "x"\nend TXT "y"\n',
      'two A 192.0.2.2',
      'one A 192.0.2.1\n    TXT "x"\ntwo A 192.0.2.2\nend TXT "y"\n',
    ],
    [
      'full names where the neighbour has them',
      'www.hollowmere.example. 300 IN A 192.0.2.1\n',
      'ftp 300 A 192.0.2.2',
      'www.hollowmere.example. 300 IN A 192.0.2.1\nftp.hollowmere.example. 300 IN A 192.0.2.2\n',
    ],
    [
      'relative to the $ORIGIN in force',
      '$ORIGIN lake.hollowmere.example.\nwww A 192.0.2.1\n',
      'ftp.lake A 192.0.2.2',
      '$ORIGIN lake.hollowmere.example.\nwww A 192.0.2.1\nftp A 192.0.2.2\n',
    ],
    [
      'values in parentheses are replaced with them',
      't TXT ( "one" ; first\n  "two" )\nend A 192.0.2.9\n',
      't TXT "three"',
      't TXT "three"\nend A 192.0.2.9\n',
    ],
    [
      'CRLF stays',
      'www A 192.0.2.1\r\nend A 192.0.2.9\r\n',
      'www A 192.0.2.1 | 192.0.2.2',
      'www A 192.0.2.1\r\nwww A 192.0.2.2\r\nend A 192.0.2.9\r\n',
    ],
    [
      'no newline at the end stays so',
      'www A 192.0.2.1',
      'www A 192.0.2.1 | 192.0.2.2',
      'www A 192.0.2.1\nwww A 192.0.2.2',
    ],
    ['a TTL restated', 'www 300 A 192.0.2.1\n', 'www 60 A 192.0.2.1', 'www 60 A 192.0.2.1\n'],
  ])('%s', (_what, before, words, after) => {
    expect(edit(HEAD + before, words)).toBe(HEAD + after)
  })

  test('an inherited TTL is written out where the line above it goes', () => {
    const head = '@ 900 SOA ns1.upland-dns.example. hostmaster 1 7200 900 1209600 3600\n'
    expect(edit(`${head}www 300 A 192.0.2.1\nftp A 192.0.2.2\nend A 192.0.2.3\n`, 'www A')).toBe(
      `${head}ftp 300 A 192.0.2.2\nend A 192.0.2.3\n`,
    )
    expect(edit(`${head}www 300 A 192.0.2.1\nftp A 192.0.2.2\n`, 'www 60 A 192.0.2.1')).toBe(
      `${head}www 60 A 192.0.2.1\nftp 300 A 192.0.2.2\n`,
    )
  })

  test('octets that are no UTF-8 stay', () => {
    const before = new Uint8Array([...octetsOf(HEAD + 'a TXT "'), 0xe9, 0xff, ...octetsOf('"\nwww A 192.0.2.1\n')])
    const edited = editZone(before, ZONE, [change('www A 192.0.2.2')])
    expect('octets' in edited && [...edited.octets.slice(0, before.length - 2)]).toEqual([...before.slice(0, -2)])
  })

  test('the serial advances in its own style, and only when something changed', () => {
    const zone = (serial = 0) =>
      `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster (\n  ${serial} ; serial\n  7200 900 1209600 3600 )\nwww A 192.0.2.1\n`
    for (const [before, after] of [
      [2026112202, 2026112301],
      [2026112301, 2026112302],
      [41, 42],
      [1795420000, NOW.getTime() / 1000],
      [4294967295, 1],
    ]) {
      const edited = editZone(octetsOf(zone(before)), ZONE, [change('www A 192.0.2.2')], { now: NOW })
      expect('octets' in edited && new TextDecoder().decode(edited.octets)).toBe(zone(after).replace('2.1\n', '2.2\n'))
    }
    const same = editZone(octetsOf(zone(7)), ZONE, [change('www A 192.0.2.1')], { now: NOW })
    expect('octets' in same && new TextDecoder().decode(same.octets)).toBe(zone(7))
  })

  test.each([
    ['a signed file', 'www RRSIG A 13 3 3600 1 1 1 hollowmere.example. AAAA\n', /signed/],
    ['a set that is generated', '$GENERATE 1-3 www A 192.0.2.$\n', /made by \$GENERATE at line 3/],
  ])('%s is refused', (_what, extra, why) => {
    const edited = editZone(octetsOf(HEAD + extra), ZONE, [change('www A 192.0.2.1')])
    expect('refused' in edited && edited.refused).toMatch(why)
  })
})

const owners = ['@', 'www', 'mail', 'a.b', 'b', '*.c']
const line = fc.record({
  owner: fc.constantFrom(...owners, ''),
  ttl: fc.constantFrom('', '300', '1h'),
  klass: fc.constantFrom('', 'IN'),
  value: fc.constantFrom(
    'A 192.0.2.1',
    'A 192.0.2.2',
    'MX 10 mail',
    'MX 20 a.b.hollowmere.example.',
    'TXT "x;y" z',
    'TXT ( "p"\n\t"q" )',
    'AAAA 2001:db8::1',
    'CNAME mail',
    'CNAME \\# 11 04 6d61696c 04 74657374 00',
    'TXT ( "open"',
    'TXT "open',
  ),
  tail: fc.constantFrom(
    '',
    ' ; a comment',
    '\n',
    '\n; a line of its own',
    '\n$ORIGIN b.hollowmere.example.',
    '\n$ORIGIN hollowmere.example.',
    '\n$TTL 1d',
    '\n$INCLUDE ./one.inc',
    '\n$INCLUDE sub/one.inc',
    '\n$INCLUDE two.inc b.hollowmere.example.',
    '\n$GENERATE 1-3 g$ A 192.0.2.$',
    '\n$GENERATE 1-2 www MX "10 m$"',
  ),
  gap: fc.constantFrom(' ', '\t', '   '),
})
const zoneText = fc
  .tuple(
    fc.constantFrom('$TTL 2h\n', ''),
    fc.constantFrom('\n', '\r\n'),
    fc.array(line, { minLength: 1, maxLength: 14 }),
  )
  .map(([ttl, eol, lines]) =>
    `${ttl}@ SOA ns1.upland-dns.example. hostmaster 5 7200 900 1209600 3600\n${lines.map((l) => [l.owner, l.ttl, l.klass, l.value].filter((p, i) => i === 0 || p).join(l.gap) + l.tail).join('\n')}\n`.replaceAll(
      '\n',
      eol,
    ),
  )
const anyChange = fc.record({
  owner: fc.constantFrom(...owners),
  type: fc.constantFrom('A', 'MX', 'TXT', 'CNAME'),
  ttl: fc.constantFrom('', ' 60', ' 300'),
  values: fc.subarray([0, 1, 2]),
})
const VALUES: Record<string, string[]> = {
  A: ['192.0.2.1', '192.0.2.2', '192.0.2.3'],
  MX: ['10 mail', '20 a.b', '30 mx.larkpost.example.'],
  TXT: ['"x;y" z', '"new"', '"p" "q"'],
  CNAME: ['mail', '\\# 11 04 6d61696c 04 74657374 00', 'mx.larkpost.example.'],
}

type Files = ReadonlyMap<string, Uint8Array>
const reading = (files: Files) => (name: string, from: string) => {
  const file = posix.join(posix.dirname(from), name)
  const octets = files.get(file)
  return octets ? { file, octets } : { failed: 'it is not there' }
}
/** What a change may be refused for. */
const REFUSED = /is included twice|is made by \$GENERATE|fix that first/

function model(octets: Uint8Array, files: Files = new Map()): Map<string, string> {
  const zones = new Zones()
  readZone(zones, zones.addSource(zones.addZone(ZONE, ''), '', octets), { include: reading(files) })
  return setsOf(zones)
}

function setsOf(zones: Zones): Map<string, string> {
  const sets = new Map<string, string>()
  for (let r = 0; r < zones.count; r++) {
    if (zones.flags(r) & DROPPED) continue
    const key = `${zones.tree.text(zones.owner(r)).toLowerCase()} ${zones.type(r)}`
    sets.set(key, `${sets.get(key) ?? ''}|${zones.ttl(r)} ${rdataKey(zones.type(r), zones.rdata(r))}`)
  }
  return sets
}

const included = fc
  .array(line, { maxLength: 3 })
  .map((lines) => lines.map((l) => `${l.owner}${l.gap}${l.value}${l.tail.includes('INC') ? '' : l.tail}\n`).join(''))

test('any change of any file, and what it includes, gives exactly the set that was meant, and every other set as it was', () => {
  fc.assert(
    fc.property(
      zoneText,
      fc.array(included, { minLength: 3, maxLength: 3 }),
      fc.array(anyChange, { minLength: 1, maxLength: 2 }),
      (before, parts, wishes) => {
        const files = new Map(['one.inc', 'sub/one.inc', 'two.inc'].map((file, i) => [file, octetsOf(parts[i]!)]))
        const changes = wishes
          .filter(
            ({ owner, type }, i) => !wishes.some((each, k) => k < i && each.owner === owner && each.type === type),
          )
          .map(({ owner, type, ttl, values }) =>
            change(
              `${owner}${ttl} ${type}${values.length > 0 ? ' ' : ''}${values.map((v) => VALUES[type]![v]).join(' | ')}`,
            ),
          )
        const edited = editZone(octetsOf(before), ZONE, changes, { include: reading(files) })
        if ('refused' in edited) {
          expect(edited.refused).toMatch(REFUSED)
          return
        }
        const then = model(octetsOf(before), files)
        const after = new Map([...files, ...edited.included.map(({ file, octets }) => [file, octets] as const)])
        const now = model(edited.octets, after)
        expect(new Map([...setsOf(edited.zones)].map(([key, set]) => [key, set.split('|').sort()]))).toEqual(
          new Map([...now].map(([key, set]) => [key, set.split('|').sort()])),
        )
        for (const wanted of changes) {
          const key = `${wanted.owner} ${wanted.type}`
          const got = now.get(key)?.split('|').slice(1) ?? []
          expect(new Set(got.map((each) => each.replace(/^\d+ /, '')))).toEqual(
            new Set(wanted.data.map((data) => rdataKey(wanted.type, data))),
          )
          if (wanted.ttl !== undefined) expect(got.every((each) => each.startsWith(`${wanted.ttl} `))).toBe(true)
          then.delete(key)
          now.delete(key)
        }
        expect(now).toEqual(then)
        // Lines that hold no record of the set are still there, in their order.
        const other = (octets: Uint8Array): string[] =>
          Buffer.from(octets)
            .toString()
            .split(/\r?\n/)
            .filter((l) => /^\s*(;|\$)|open/.test(l))
            .map((l) => l.replace(/^(\$GENERATE \S+ \S+) \d+/, '$1'))
        expect(other(edited.octets)).toEqual(other(octetsOf(before)))
        for (const [file, octets] of after) expect(other(octets)).toEqual(other(files.get(file)!))
      },
    ),
    { numRuns: 3000 },
  )
})

test('doing and undoing gives the first file again', () => {
  const fresh = fc.constantFrom(
    'new A 192.0.2.50',
    'www.new MX 10 mail',
    'www A 192.0.2.50 | 192.0.2.51',
    '@ SRV 0 0 1 mail',
  )
  fc.assert(
    fc.property(zoneText, fresh, (before, words) => {
      fc.pre(before.startsWith('$TTL 2h') && !before.includes('open'))
      const [, owner, type = ''] = /^(\S+) (\S+)/.exec(words)!
      fc.pre(!model(octetsOf(before)).has(`${change(`${owner} ${type}`).owner} ${parseType(type)}`))
      expect(edit(edit(before, words), `${owner} ${type}`)).toBe(before)
    }),
  )
  const columns = `${HEAD}www   300 IN A 192.0.2.1 ; the site\nend A 192.0.2.9\n`
  expect(edit(edit(columns, 'www 60 A 192.0.2.7'), 'www 300 A 192.0.2.1')).toBe(columns)
})

describe('a whole change in each common style', () => {
  const KEY = `v=DKIM1; p=${'A'.repeat(300)}`
  const folded = `(\n    "${KEY.slice(0, 255)}"\n    "${KEY.slice(255)}" )\n`
  test.each([
    [
      'columns with an owner once',
      `$ORIGIN hollowmere.example.\n$TTL 1h\n@            IN SOA  ns1.upland-dns.example. hostmaster (\n                     7      ; serial\n                     7200 900 1209600 3600 )\n             IN NS   ns1.upland-dns.example.\n             IN MX   10 mail\nmail         IN A    192.0.2.25\n             IN AAAA 2001:db8::25\nwww          IN A    192.0.2.10\n`,
      /^ {13}IN MX {3}10 mail\n {13}IN MX {3}20 mail2\nmail {9}IN A {4}192\.0\.2\.25\n {13}IN AAAA 2001:db8::25\nwww {10}IN A {4}192\.0\.2\.10\nmail2 {8}IN A {4}192\.0\.2\.26\n/m,
    ],
    [
      'one absolute record a line',
      `hollowmere.example. 3600 IN SOA ns1.upland-dns.example. hostmaster.hollowmere.example. 7 7200 900 1209600 3600\nhollowmere.example. 3600 IN NS ns1.upland-dns.example.\nhollowmere.example. 3600 IN MX 10 mail.hollowmere.example.\nmail.hollowmere.example. 3600 IN A 192.0.2.25\n`,
      /^hollowmere\.example\. 3600 IN MX 10 mail\.hollowmere\.example\.\nhollowmere\.example\. 3600 IN MX 20 mail2\.hollowmere\.example\.\nmail\.hollowmere\.example\. 3600 IN A 192\.0\.2\.25\nmail2\.hollowmere\.example\. 3600 IN A 192\.0\.2\.26\n/m,
    ],
    [
      '$ORIGIN for each host',
      `$TTL 3600\nhollowmere.example. SOA ns1.upland-dns.example. hostmaster 7 7200 900 1209600 3600\n\tNS ns1.upland-dns.example.\n\tMX 10 mail.hollowmere.example.\n$ORIGIN mail.hollowmere.example.\n@\tA 192.0.2.25\n$ORIGIN www.hollowmere.example.\n@\tA 192.0.2.10\n`,
      /^\tMX 10 mail\.hollowmere\.example\.\n\tMX 20 mail2\.hollowmere\.example\.\n\$ORIGIN mail[\s\S]*^@\tA 192\.0\.2\.10\nmail2\.hollowmere\.example\.\tA 192\.0\.2\.26\n/m,
    ],
    [
      'everything in parentheses',
      `$ORIGIN hollowmere.example.\n$TTL 3600\n@ SOA ( ns1.upland-dns.example. hostmaster 7 7200 900 1209600 3600 )\n@ NS ( ns1.upland-dns.example. )\n@ MX ( 10\n  mail )\nmail A ( 192.0.2.25 )\n`,
      /^@ MX \( 10\n {2}mail \)\n@ MX +20 mail2\nmail A \( 192\.0\.2\.25 \)\nmail2 A +192\.0\.2\.26\n/m,
    ],
  ])('%s', (_style, before, after) => {
    const now = edit(before, 'mail2 A 192.0.2.26', '@ MX 10 mail | 20 mail2')
    expect(now).toMatch(after)
    expect(now.split('\n').filter((each) => !before.split('\n').includes(each))).toHaveLength(2)
    const signed = edit(before, `s1._domainkey TXT "${KEY.slice(0, 255)}" "${KEY.slice(255)}"`)
    expect(signed).toContain(folded)
  })
})

import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { LineIndex } from '../../../src/core/file/places.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { advanceSerial, serialAfter, serialStyle } from '../../../src/core/file/serial.ts'
import { zoneNameClues } from '../../../src/core/file/zone-name.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { typeText } from '../../../src/core/records/types.ts'

function read(text: string | Uint8Array, zone = 'hollowmere.example.'): { records: string[]; problems: string[] } {
  const octets = typeof text === 'string' ? octetsOf(text) : text
  const zones = new Zones()
  readZone(zones, zones.addSource(zones.addZone(zone, 'f'), 'f', octets))
  const lines = new LineIndex(octets)
  return {
    records: Array.from(
      { length: zones.count },
      (_, r) => `${zones.tree.text(zones.owner(r))} ${zones.ttl(r)} ${typeText(zones.type(r))} ${zones.rdataText(r)}`,
    ),
    problems: zones.sources[0]!.problems.map((p) => {
      const { line, column } = lines.place(p.start)
      return `${p.kind} ${line}:${column}`
    }),
  }
}

test('the example of RFC 1035 §5.3', () => {
  const { records, problems } = read(
    `@   IN  SOA     VENERA      Action\\.domains (
                                 20     ; SERIAL
                                 7200   ; REFRESH
                                 600    ; RETRY
                                 3600000; EXPIRE
                                 60)    ; MINIMUM

        NS      A.ISI.EDU.
        NS      VENERA
        NS      VAXA
        MX      10      VENERA
        MX      20      VAXA

A       A       26.3.0.103

VENERA  A       10.1.0.52
        A       128.9.0.32
`,
    'ISI.EDU.',
  )
  expect(records).toEqual([
    'ISI.EDU. 60 SOA VENERA.ISI.EDU. Action\\.domains.ISI.EDU. 20 7200 600 3600000 60',
    'ISI.EDU. 60 NS A.ISI.EDU.',
    'ISI.EDU. 60 NS VENERA.ISI.EDU.',
    'ISI.EDU. 60 NS VAXA.ISI.EDU.',
    'ISI.EDU. 60 MX 10 VENERA.ISI.EDU.',
    'ISI.EDU. 60 MX 20 VAXA.ISI.EDU.',
    'A.ISI.EDU. 60 A 26.3.0.103',
    'VENERA.ISI.EDU. 60 A 10.1.0.52',
    'VENERA.ISI.EDU. 60 A 128.9.0.32',
  ])
  expect(problems).toEqual(['no-ttl 1:9'])
})

describe('what is written so is read so', () => {
  test.each([
    ['TTL before class', '$TTL 1\nwww 300 IN A 192.0.2.1', 'www.hollowmere.example. 300 A 192.0.2.1'],
    ['class before TTL', '$TTL 1\nwww IN 300 A 192.0.2.1', 'www.hollowmere.example. 300 A 192.0.2.1'],
    ['neither', '$TTL 1h30m\nwww A 192.0.2.1', 'www.hollowmere.example. 5400 A 192.0.2.1'],
    ['small letters', '$ttl 1\nwww 1D in mx 10 mail', 'www.hollowmere.example. 86400 MX 10 mail.hollowmere.example.'],
    [
      'the last stated TTL without $TTL',
      'a 77 A 192.0.2.1\nb A 192.0.2.2',
      'a.hollowmere.example. 77 A 192.0.2.1|b.hollowmere.example. 77 A 192.0.2.2',
    ],
    [
      '$ORIGIN',
      '$TTL 1\n$ORIGIN lake.hollowmere.example.\n@ A 192.0.2.1\na A 192.0.2.2',
      'lake.hollowmere.example. 1 A 192.0.2.1|a.lake.hollowmere.example. 1 A 192.0.2.2',
    ],
    [
      'a blank owner after $ORIGIN',
      '$TTL 1\nwww A 192.0.2.1\n$ORIGIN lake.hollowmere.example.\n A 192.0.2.2',
      'www.hollowmere.example. 1 A 192.0.2.1|www.hollowmere.example. 1 A 192.0.2.2',
    ],
    [
      'parentheses, comments and blank lines',
      '$TTL 1\n\n; a comment\nwww ( A ; here\n 192.0.2.1 )',
      'www.hollowmere.example. 1 A 192.0.2.1',
    ],
    [
      'an owner named like a type or a class',
      '$TTL 1\nmx A 192.0.2.1\nin A 192.0.2.2\n300 A 192.0.2.3',
      'mx.hollowmere.example. 1 A 192.0.2.1|in.hollowmere.example. 1 A 192.0.2.2|300.hollowmere.example. 1 A 192.0.2.3',
    ],
    ['signs inside quotes', '$TTL 1\nt TXT "a;(b" \'c\'', 't.hollowmere.example. 1 TXT "a;(b" "\'c\'"'],
    ['escaped signs outside them', '$TTL 1\nt TXT a\\;b\\ c', 't.hollowmere.example. 1 TXT "a;b c"'],
    ['an escaped dot in an owner', '$TTL 1\na\\.b A 192.0.2.1', 'a\\.b.hollowmere.example. 1 A 192.0.2.1'],
    ['no newline at the end', '$TTL 1\nwww A 192.0.2.1', 'www.hollowmere.example. 1 A 192.0.2.1'],
    ['an unknown type', '$TTL 1\nwww TYPE65280 \\# 2 abcd', 'www.hollowmere.example. 1 TYPE65280 \\# 2 abcd'],
  ])('%s', (_what, text, records) => expect(read(text)).toEqual({ records: records.split('|'), problems: [] }))
})

// As named, knotd and nsd differ about it.
describe('what some servers refuse is told, and read all the same', () => {
  test.each([
    ['CRLF', 'www A 192.0.2.1\r\n', 'www.hollowmere.example. 1 A 192.0.2.1', 'carriage-return 1:7'],
    [
      'a line’s end inside a text',
      'a TXT "one ; (\ntwo" ( "three\\"\n\nfour"\n) ; five',
      'a.hollowmere.example. 1 TXT "one ; (\\010two" "three\\"\\010\\010four"',
      'line-in-text 2:7|line-in-text 3:8',
    ],
    ['a quoted name', 'a MX 10 "mail.x."', 'a.hollowmere.example. 1 MX 10 mail.x.', 'quoted 2:9'],
    ['quoted numbers', 'a SRV "0" "1" 443 x.', 'a.hollowmere.example. 1 SRV 0 1 443 x.', 'quoted 2:7|quoted 2:11'],
    [
      'a quoted owner, TTL and type',
      '"a" "5" "A" 192.0.2.1',
      'a.hollowmere.example. 5 A 192.0.2.1',
      'quoted 2:1|quoted 2:5|quoted 2:9',
    ],
    [
      'quotes in the generic form',
      'a TYPE65280 \\# 1 "00"',
      'a.hollowmere.example. 1 TYPE65280 \\# 1 00',
      'quoted 2:18',
    ],
    [
      'a quoted origin',
      '$ORIGIN "x.hollowmere.example."\na A 192.0.2.1',
      'a.x.hollowmere.example. 1 A 192.0.2.1',
      'quoted 2:9',
    ],
    [
      'relative origins',
      '$ORIGIN x\n$ORIGIN y\na A 192.0.2.1',
      'a.y.x.hollowmere.example. 1 A 192.0.2.1',
      'relative-origin 2:9|relative-origin 3:9',
    ],
    ['a parenthesis first', '(a A 192.0.2.1)', 'a.hollowmere.example. 1 A 192.0.2.1', 'parenthesis-first 2:2'],
    [
      'a directive at the end, without a newline',
      'a A 192.0.2.1\n$TTL 5',
      'a.hollowmere.example. 1 A 192.0.2.1',
      'no-newline 3:1',
    ],
    [
      'texts that touch',
      'a TXT "b""c"d e"f"',
      'a.hollowmere.example. 1 TXT "b" "c" "d" "e" "f"',
      'touching 2:10|touching 2:13|touching 2:16',
    ],
    [
      'parameters that touch',
      'a SVCB 1 . alpn="h2"port="53"',
      'a.hollowmere.example. 1 SVCB 1 . alpn="h2" port=53',
      'touching 2:21',
    ],
    ['a target without quotes', 'a URI 1 1 x:y', 'a.hollowmere.example. 1 URI 1 1 "x:y"', 'unquoted 2:11'],
  ])('%s', (_what, text, records, problems) => {
    const head = text.includes('\r') ? '$TTL 1\r\n' : '$TTL 1\n'
    expect(read(head + text)).toEqual({ records: records.split('|'), problems: problems.split('|') })
  })

  test('a byte-order mark', () =>
    expect(read('\ufeff$TTL 1\nwww A 192.0.2.1\n')).toEqual({
      records: ['www.hollowmere.example. 1 A 192.0.2.1'],
      problems: ['byte-order-mark 1:1'],
    }))

  test.each([
    'a TXT ("b" "c")',
    'a TXT "b"("c")',
    'a TXT "b";c',
    'a HTTPS 1 . alpn="h2" port="53"',
    'a CAA 0 issue "x"',
    '$GENERATE 1-2 g$ TXT "\\"a\\"\\"b\\""\n',
    'a NAPTR 1 1 "s" "" "" y.',
  ])('%s is sound', (text) => expect(read(`$TTL 1\n${text}`).problems).toEqual([]))
})

describe('every problem is told, with its place, and the rest is read', () => {
  const REST = '\nend A 192.0.2.9\n'
  test.each([
    ['a bad address', 'a A 192.0.2', 'bad-address 2:5'],
    ['an unknown type', 'a IN BOGUS x', 'unknown-type 2:6'],
    ['no type', 'a 300 IN', 'no-type 2:9'],
    ['a value missing', 'a MX 10', 'missing-value 2:8'],
    ['a value too many', 'a A 192.0.2.1 x', 'extra-value 2:15'],
    ['two problems', 'a A x\nb MX y', 'bad-address 2:5|bad-number 3:6'],
    ['an unclosed quote', 'a TXT "x', 'bad-quote 2:7'],
    ['an unclosed quote, and another text behind it', 'a TXT "x\nb TXT "y"', 'bad-quote 2:7'],
    [
      'an unclosed quote, and no other one near',
      `a TXT "x\n${'b A 192.0.2.1\n'.repeat(100)}c TXT " y"`,
      'bad-quote 2:7',
    ],
    ['an unclosed parenthesis', 'a TXT ( x', 'parenthesis 2:7'],
    ['a parenthesis that was never opened', 'a TXT x )', 'parenthesis 2:9'],
    ['one inside another', 'a TXT ( ( x ) )', 'parenthesis 2:9|parenthesis 2:15'],
    ['an owner outside', 'a.lakepass.example. A 192.0.2.1', 'out-of-zone 2:1'],
    ['an unknown directive', '$ORIGINAL x', 'bad-directive 2:1'],
    ['an empty label', 'a..b A 192.0.2.1', 'empty-label 2:1'],
    ['a TTL out of sorts', 'a 3x A 192.0.2.1', 'bad-ttl 2:3'],
    ['columns in characters, not octets', 'ä TXT "é" x\nb TXT "é" "', 'bad-quote 3:11'],
  ])('%s', (_what, text, problems) => {
    const got = read(`$TTL 1\n${text}${REST}`)
    expect(got.problems).toEqual(problems.split('|').slice(0, got.problems.length))
    expect(got.problems.length).toBeGreaterThan(0)
    expect(got.records).toContain('end.hollowmere.example. 1 A 192.0.2.9')
  })

  test('a blank owner with nothing above it', () => expect(read(' A 192.0.2.1').problems).toEqual(['no-owner 1:2']))
  test('a binary file is one problem', () =>
    expect(read(new Uint8Array([0x7f, 0x45, 0, 1, 2])).problems).toEqual(['binary 1:3']))
  test('ten thousand unclosed parentheses do not take ten thousand times the file', () => {
    expect(read('a TXT ( x\n'.repeat(10_000)).problems).toHaveLength(10_000)
  })
})

describe('which zone a file is for', () => {
  test.each([
    ['hollowmere.example. SOA a b 1 1 1 1 1', { soaOwner: 'hollowmere.example.' }],
    [
      '$ORIGIN hollowmere.example.\n@ 3600 IN SOA a b 1 1 1 1 1',
      { soaOwner: 'hollowmere.example.', origin: 'hollowmere.example.' },
    ],
    [
      '$ORIGIN example.\nhollowmere IN 1h SOA (\na b 1 1 1 1 1 )',
      { soaOwner: 'hollowmere.example.', origin: 'example.' },
    ],
    ['@ SOA a b 1 1 1 1 1', {}],
    ['$ORIGIN hollowmere.example.\nwww A 192.0.2.1', { origin: 'hollowmere.example.' }],
    ['soa A 192.0.2.1', {}],
  ])('%s', (text, clues) => expect(zoneNameClues(octetsOf(text))).toEqual(clues))
})

describe('serials', () => {
  // RFC 1982 §5.1's circle of eight bits, at the places of thirty-two.
  test.each([
    [1, 0, true],
    [44, 0, true],
    [2 ** 31, 0, false],
    [0, 2 ** 31, false],
    [0, 2 ** 32 - 1, true],
    [2 ** 31 - 1, 0, true],
    [5, 5, false],
  ])('%d comes after %d: %s', (a, b, is) => expect(serialAfter(a, b)).toBe(is))

  const now = new Date('2026-11-23T08:00:00Z')
  test.each([
    [2026010101, 'date', 2026112301],
    [2026112399, 'date', 2026112400],
    [2027010100, 'date', 2027010101],
    [1795000000, 'epoch', now.getTime() / 1000],
    [7, 'counter', 8],
    [2 ** 32 - 1, 'counter', 1],
  ])('%d (%s) becomes %d', (before, style, after) => {
    expect(serialStyle(before, now)).toBe(style)
    expect(advanceSerial(before, now)).toBe(after)
    expect(serialAfter(after, before)).toBe(true)
  })
})

test('an entry reads the same by itself and behind any others, its target too', () => {
  const hex = '11 0378797a04746573740000'
  const entry = fc.constantFrom(
    'a CNAME ns',
    'a CNAME ns.hollowmere.example.',
    'b CNAME \\# 10 03 78797a 04 74657374 00',
    'c MX 10 mail',
    'd SRV \\# 16 0000 0000 0001 03 78797a 04 74657374 00',
    'e TXT "x" "y"',
    'f MX "10" mail',
    'g A 192.0.2.999',
    'h TXT "open',
    'i NS @',
    'j SOA ns hostmaster.hollowmere.example. 1 2 3 4 5',
    `k CNAME \\# ${hex}`,
    'l TXT ( "p"\n "q" )',
    'm CNAME n 1',
  )
  const dump = (text: string): string[] => {
    const octets = octetsOf(`$TTL 1\n${text}\n`)
    const zones = new Zones()
    readZone(zones, zones.addSource(zones.addZone('hollowmere.example.', 'f'), 'f', octets))
    const records = Array.from({ length: zones.count }, (_, r) => {
      const target = zones.target(r)
      return `${zones.tree.text(zones.owner(r))} ${zones.rdataText(r)} -> ${target < 0 ? '' : zones.tree.text(target)} ${zones.flags(r)}`
    })
    return [
      ...records,
      ...zones.sources[0]!.problems.map(({ kind, value, message }) => `${kind} ${value} ${message}`),
    ].sort()
  }
  fc.assert(
    fc.property(fc.array(entry, { minLength: 2, maxLength: 6 }), (entries) => {
      expect(dump(entries.join('\n'))).toEqual(entries.flatMap(dump).sort())
    }),
    { numRuns: 500 },
  )
})

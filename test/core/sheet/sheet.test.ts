import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { RecordSet } from '../../../src/core/model/zones.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { parseRdata, rdataText } from '../../../src/core/records/rdata.ts'
import { parseType, typeText } from '../../../src/core/records/types.ts'
import { joined } from '../../../src/core/records/views.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { rowsFor } from '../../../src/core/sheet/rows.ts'
import { PLAIN, STYLES, type Style } from '../../../src/core/sheet/style.ts'
import { linesOf, tableOf } from '../../../src/core/sheet/table.ts'
import { readInstructions } from '../../../src/core/transcribe/read.ts'

const ZONE = 'hollowmere.example.'
const zone = exampleZones('').zones[0]!

function set(owner: string, type: string, ttl: number, ...values: string[]): RecordSet {
  const data = values.map((text) => {
    const parsed = parseRdata(parseType(type)!, text, nameToWire(ZONE) as Uint8Array)
    if (!('wire' in parsed)) throw new Error(`${type} ${text}: ${parsed.message}`)
    return parsed.wire
  })
  return { owner: owner === '@' ? ZONE : `${owner}.${ZONE}`, type: parseType(type)!, ttl, data }
}

/** Sets as texts that are equal for equal sets; a text’s strings joined, which servers do not tell apart for whoever reads it. */
const told = (sets: readonly { owner: string; type: number; data: readonly Uint8Array[] }[]): string[] =>
  sets
    .flatMap(({ owner, type, data }) =>
      data.map(
        (each) =>
          `${owner} ${typeText(type)} ${typeText(type) === 'TXT' ? JSON.stringify(joined(each)) : rdataText(type, each)}`,
      ),
    )
    .sort()

const SETS = [
  set('@', 'MX', 3600, '10 mail', '20 mx2.larkpost.example.'),
  set('@', 'TXT', 3600, '"v=spf1 mx include:_spf.larkpost.example -all"', '"site-verification=0123456789abcdef"'),
  set('@', 'A', 300, '192.0.2.1'),
  set('mail', 'A', 90, '192.0.2.25', '192.0.2.26'),
  set('mail', 'AAAA', 3600, '2001:db8::25'),
  set('www', 'CNAME', 3600, 'site.northlight.example.'),
  set('shop', 'CNAME', 3600, '@'),
  set('_imaps._tcp', 'SRV', 3600, '0 1 993 mail'),
  set('_sip._udp.office', 'SRV', 7260, '10 20 5060 mail', '20 0 5060 mx2.larkpost.example.'),
  set('_dmarc', 'TXT', 3600, '"v=DMARC1; p=reject; rua=mailto:dmarc@hollowmere.example"'),
  set(
    's1._domainkey',
    'TXT',
    3600,
    `"v=DKIM1; k=rsa; p=${'MIIBIjANBgkqhkiG9w0BAQEFAAOCAQ8A'.repeat(7)}" "${'AAOCAQ8AMIIBCgKCAQEA'.repeat(8)}"`,
  ),
  set('s2._domainkey', 'CNAME', 3600, 's2.keys.larkpost.example.'),
  set('@', 'CAA', 3600, '0 issue "ca.northlight.example"'),
  set('_443._tcp.www', 'TLSA', 3600, '3 1 1 0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef'),
  set('dev', 'NS', 3600, 'ns1.upland-dns.example.', 'ns2.upland-dns.example.'),
]

/** The lines of a sheet with its columns in another order. */
function printed(
  sets: readonly RecordSet[],
  style: Style,
  order: (count: number) => number[],
  withHeading: boolean,
): string {
  const table = tableOf(sets.flatMap((each) => rowsFor(each, zone, style)))
  const columns = order(table.headings.length)
  const shuffled = (cells: readonly string[]): string[] => columns.map((i) => cells[i]!)
  const { heading, rows } = linesOf({
    ...table,
    headings: shuffled(table.headings),
    rows: table.rows.map((lines) => lines.map(shuffled)),
  })
  return [...(withHeading ? [heading] : []), ...rows.flat()].join('\n')
}

const asIs = (count: number): number[] => [...Array(count).keys()]

function readBack(text: string): string[] {
  const { rows } = readInstructions(text, ZONE)
  return told(rows.map(({ owner, type, data }) => ({ owner, type, data: [data] })))
}

const some = fc.subarray(SETS, { minLength: 1 })

describe.each(STYLES.map((style) => [style.label, style] as const))('in the style %s', (label, style) => {
  test('what is printed is read back as the same sets, its columns in any order', () =>
    fc.assert(
      fc.property(some, fc.infiniteStream(fc.nat()), (sets, dice) => {
        const places = [...dice.take(12)]
        const order = (count: number): number[] => asIs(count).sort((a, b) => places[a]! - places[b]!)
        expect(readBack(printed(sets, style, order, true))).toEqual(told(sets))
      }),
      { numRuns: 150 },
    ))

  // An empty cell under no heading can be any field: then a row is left unread, and never read as another.
  test('and without its headings', () =>
    fc.assert(
      fc.property(some, (sets) => {
        const read = readBack(printed(sets, style, asIs, false))
        expect(label === 'blank-apex' ? read.filter((each) => !told(sets).includes(each)) : read).toEqual(
          label === 'blank-apex' ? [] : told(sets),
        )
      }),
      { numRuns: 150 },
    ))
})

test('the styles that come along use every switch each way', () => {
  const values = (of: (style: Style) => unknown): unknown[] => [...new Set(STYLES.map(of))].sort()
  expect({
    apex: values(({ apex }) => apex),
    names: values(({ names }) => names),
    dot: values(({ finalDot }) => finalDot),
    preference: values(({ preference }) => preference),
    srv: values(({ srv }) => srv),
    text: values(({ text }) => text),
    ttl: values(({ ttl }) => ttl),
    rows: values(({ rows }) => rows),
  }).toEqual({
    apex: ['@', 'blank', 'full'],
    names: ['full', 'relative'],
    dot: [false, true],
    preference: ['field', 'value'],
    srv: ['fields', 'three', 'value'],
    text: ['bare', 'joined', 'quoted'],
    ttl: ['minutes', 'none', 'seconds', 'units'],
    rows: ['record', 'set'],
  })
})

test.each<[Partial<Style>, RecordSet, string[]]>([
  [{}, SETS[0]!, ['MX @ 10 mail.hollowmere.example 3600', 'MX @ 20 mx2.larkpost.example 3600']],
  [
    { finalDot: true, apex: 'full', preference: 'value', ttl: 'none' },
    SETS[0]!,
    ['MX hollowmere.example. 10 mail.hollowmere.example.', 'MX hollowmere.example. 20 mx2.larkpost.example.'],
  ],
  [{ ttl: 'minutes', rows: 'set' }, SETS[3]!, ['A mail 192.0.2.25\n192.0.2.26 2']],
  [{ ttl: 'units', ttlFloor: 300 }, SETS[3]!, ['A mail 192.0.2.25 5m', 'A mail 192.0.2.26 5m']],
  [{ srv: 'three' }, SETS[7]!, ['SRV _imaps._tcp 0 1 993 mail.hollowmere.example 3600']],
  [{ srv: 'fields', apex: 'blank' }, SETS[7]!, ['SRV _imaps _tcp  0 1 993 mail.hollowmere.example 3600']],
  [{ text: 'joined' }, set('@', 'TXT', 60, '"one" " two"'), ['TXT @ "one two" 60']],
  [{ text: 'bare' }, set('@', 'TXT', 60, '"one" " two"'), ['TXT @ one two 60']],
  [{ text: 'bare' }, set('@', 'TXT', 60, '"C:\\\\tide"'), ['TXT @ C:\\tide 60']],
  [{ text: 'bare' }, set('@', 'TXT', 60, '"\\195\\156ber"'), ['TXT @ Über 60']],
  // Octets that are no text, and what would be read back as something else, are in quotes.
  [{ text: 'bare' }, set('@', 'TXT', 60, '"\\255x"'), ['TXT @ "\\255x" 60']],
  [{ text: 'bare' }, set('@', 'TXT', 60, '"a\\\\;b"'), ['TXT @ "a\\\\;b" 60']],
  [{ text: 'bare' }, set('@', 'TXT', 60, '" x"'), ['TXT @ " x" 60']],
  [{ text: 'quoted' }, set('@', 'TXT', 60, '"one" " \\"two"'), ['TXT @ "one" " \\"two" 60']],
])('%j', (switches, only, rows) =>
  expect(
    rowsFor(only, zone, { ...PLAIN, label: 'x', ...switches }).map(({ fields }) =>
      fields.map(({ value }) => value).join(' '),
    ),
  ).toEqual(rows),
)

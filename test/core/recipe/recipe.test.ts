import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { nameToWire } from '../../../src/core/names/name.ts'
import { faultsIn, fill } from '../../../src/core/recipe/fill.ts'
import { recipeOf } from '../../../src/core/recipe/made-of.ts'
import { BLANK_KINDS, type Blank, type BlankKind, type Recipe, valueFor } from '../../../src/core/recipe/recipe.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { parseType, typeText } from '../../../src/core/records/types.ts'

const ZONE = 'hollowmere.example.'
const blank = (kind: BlankKind, more: Partial<Blank> = {}): Blank => ({ name: 'x', what: 'x', kind, ...more })
const recipe = (blanks: Blank[], ...records: string[]): Recipe => ({ label: 'l', title: 't', blanks, records })

/** The records with one blank filled, as "owner ttl type value" with the zone’s name left out; or why not. */
function filled(kind: BlankKind, typed: string, record: string, base = ZONE): string {
  const value = valueFor(blank(kind), typed)
  if (typeof value !== 'string') return value.refused
  const made = fill(recipe([blank(kind)], record), new Map([['x', value]]), base)
  if ('refused' in made) return made.refused
  return made.rows.map(({ owner, ttl, type, value }) => [owner, ttl ?? '-', typeText(type), value].join(' ')).join('\n')
}

describe('a value goes into its field', () => {
  test.each<[BlankKind, string, string, string]>([
    ['text', ' a b ', '@ TXT "${x}"', '@ - TXT " a b "'],
    ['text', 'x'.repeat(255), '@ TXT "${x}"', `@ - TXT "${'x'.repeat(255)}"`],
    ['text', 'x'.repeat(256), '@ TXT "${x}"', `@ - TXT "${'x'.repeat(255)}" "x"`],
    ['text', '"'.repeat(300), '@ TXT "${x}"', `@ - TXT "${'\\"'.repeat(255)}" "${'\\"'.repeat(45)}"`],
    ['name', 'mail.larkpost.example', '@ MX 10 ${x}', '@ - MX 10 mail.larkpost.example.'],
    ['name', 'mail', '@ MX 10 ${x}', '@ - MX 10 mail.@'],
    ['name', '@', 'www CNAME ${x}', 'www.@ - CNAME @'],
    ['name', 'büro', '${x} 300 IN A 192.0.2.1', 'xn--bro-hoa.@ 300 A 192.0.2.1'],
    ['name', 'mail.larkpost.example', '@ TXT "v=spf1 a:${x} -all"', '@ - TXT "v=spf1 a:mail.larkpost.example -all"'],
    ['name', 'mail', '@ TXT "v=spf1 a:${x} -all"', '@ - TXT "v=spf1 a:mail.# -all"'],
    ['name', 'keys.larkpost.example.', 'k CNAME s1.${x}', 'k.@ - CNAME s1.keys.larkpost.example.'],
    ['address', '2001:db8::1', 'h AAAA ${x}', 'h.@ - AAAA 2001:db8::1'],
    ['port', '0443', '_x._tcp SRV 0 1 ${x} h', '_x._tcp.@ - SRV 0 1 443 h.@'],
    [
      'selector',
      's1._domainkey.hollowmere.example',
      '${x}._domainkey CNAME k.example.',
      's1._domainkey.@ - CNAME k.example.',
    ],
    ['key', 'MCow BQYD\tK2Vw', 's TXT "v=DKIM1; p=${x}"', 's.@ - TXT "v=DKIM1; p=MCowBQYDK2Vw"'],
    ['text', 'a"b\\c;d$(e)', '@ TXT "${x}"', '@ - TXT "a\\"b\\\\c;d$(e)"'],
    ['text', 'a b; c', '@ TXT ${x}', '@ - TXT "a b; c"'],
    ['text', 'größe', '@ TXT "${x}"', '@ - TXT "gr\\195\\182\\195\\159e"'],
    ['text', 'a.b', '${x} A 192.0.2.1', 'a\\.b.@ - A 192.0.2.1'],
    ['number', '42', '@ TXT "id=${x}"', '@ - TXT "id=42"'],
  ])('%s %s into %s', (kind, typed, record, expected) =>
    expect(filled(kind, typed, record)).toBe(
      expected.replaceAll('.@', `.${ZONE}`).replaceAll('@', ZONE).replace('#', 'hollowmere.example'),
    ),
  )

  test('below another name than the apex, owners and relative names are below it', () =>
    expect(filled('name', 'mail', '@ MX 10 ${x}', 'shop.hollowmere.example.')).toBe(
      'shop.hollowmere.example. - MX 10 mail.shop.hollowmere.example.',
    ))

  test('whatever it is, it stays one record of its type, with as many fields', () => {
    const lines = ['@ TXT "a${x}b" c', '@ TXT ${x}', 'a${x} MX 10 m', '@ CAA 0 issue "${x}"', '@ MX 10 a${x}']
    fc.assert(
      fc.property(
        fc.constantFrom(...BLANK_KINDS),
        fc.string({ unit: 'binary' }),
        fc.constantFrom(...lines),
        (kind, typed, line) => {
          const own = { ...blank(kind), choices: [typed.trim()] }
          const value = valueFor(own, typed)
          if (typeof value !== 'string') return
          const made = fill(recipe([own], line), new Map([['x', value]]), ZONE)
          if ('refused' in made) return
          expect(made.rows.map(({ type }) => typeText(type))).toEqual([line.split(' ')[1]])
          const [row] = made.rows
          if (row!.type === parseType('TXT'))
            expect((row!.value.match(/"(?:[^"\\]|\\.)*"/g) ?? []).length).toBe(line.endsWith('c') ? 2 : 1)
          expect(parseRdata(row!.type, row!.value, nameToWire('.') as Uint8Array)).toMatchObject({ wire: row!.data })
        },
      ),
      { numRuns: 1000 },
    )
  })
})

test.each<[BlankKind, string, RegExp]>([
  ['name', 'a b', /not a valid domain name/],
  ['name', 'a;b', /not a valid domain name/],
  ['name', 'a"b', /not a valid domain name/],
  ['address', '192.0.2.300', /not an IP address/],
  ['address', '192.0.2.1 192.0.2.2', /not an IP address/],
  ['port', '65536', /0 to 65535/],
  ['port', '-1', /0 to 65535/],
  ['number', '1.5', /whole number/],
  ['key', 'not base64!', /base64/],
  ['text', 'a\nwww A 192.0.2.66', /line break/],
  ['text', ' ', /empty/],
  ['choice', 'x', /is none of/],
])('%s “%s” is refused', (kind, typed, why) => expect(filled(kind, typed, '@ TXT "${x}"')).toMatch(why))

test.each<[string, string, string, RegExp]>([
  ['an address of the other family', '2001:db8::1', 'h A ${x}', /record 1 .*x “2001:db8::1”/],
  ['an owner outside the base', '192.0.2.1', 'www.other.example. A ${x}', /outside hollowmere/],
])('%s is told with its record', (_what, typed, record, why) => expect(filled('address', typed, record)).toMatch(why))

describe('a recipe is looked through as a whole', () => {
  test.each<[string, Blank[], string[], RegExp]>([
    ['an unknown blank', [], ['@ MX 10 ${host}'], /\$\{host\} is not among the blanks/],
    ['a blank that no record has', [blank('name')], ['@ MX 10 m'], /no record has the blank/],
    ['two of one name', [blank('name'), blank('port')], ['@ MX 10 ${x}'], /two blanks/],
    ['a choice without choices', [blank('choice')], ['@ TXT "${x}"'], /needs choices/],
    ['a default that does not fit', [blank('port', { default: 'many' })], ['@ TXT "${x}"'], /default does not fit/],
    ['no type', [], ['@ 192.0.2.1'], /not OWNER TYPE VALUE/],
    ['a record that does not parse', [], ['@ A 192.0.2.300'], /record 1/],
    ['two records in one', [], ['@ A 192.0.2.1\n@ A 192.0.2.2'], /more than one line|line/],
    ['an open quote', [], ['@ TXT "a'], /record 1/],
  ])('%s is told', (_what, blanks, records, why) =>
    expect(faultsIn(recipe(blanks, ...records)).map(({ says }) => says)).toEqual([expect.stringMatching(why)]),
  )
})

test('what is missing is named once, and keeps only the records that need it', () => {
  const both = recipe([blank('name'), { ...blank('name'), name: 'y' }], '@ MX 10 ${x}', 'w CNAME ${y}', 'v CNAME ${y}')
  const made = fill(both, new Map([['x', 'm']]), ZONE)
  expect(made).toMatchObject({ rows: [{ line: 1 }], open: [{ blank: { name: 'y' }, line: 2 }] })
})

test('a recipe made of record sets gives these back, and fits another domain', () => {
  const data = (type: string, ...values: string[]) =>
    values.map(
      (text) => (parseRdata(parseType(type)!, text, nameToWire(ZONE) as Uint8Array) as { wire: Uint8Array }).wire,
    )
  const set = (owner: string, type: string, ...values: string[]) => ({
    owner: owner === '@' ? ZONE : `${owner}.${ZONE}`,
    type: parseType(type)!,
    ttl: 3600,
    data: data(type, ...values),
  })
  const sets = [
    set('@', 'MX', '10 mail', '20 mx.larkpost.example.'),
    set('mail', 'A', '192.0.2.1', '192.0.2.2'),
    set('web', 'A', '192.0.2.1'),
    set(
      '@',
      'TXT',
      '"v=spf1 a:mail.hollowmere.example -all"',
      '"odd ${x} text"',
      '"site-verification=0123456789abcdef"',
    ),
    set('s1._domainkey', 'TXT', '"v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="'),
    set('_dmarc', 'TXT', '"v=DMARC1; p=none; rua=mailto:d@hollowmere.example"'),
  ]
  const made = recipeOf('own', ZONE, sets)
  expect(faultsIn(made)).toEqual([])
  const values = new Map(made.blanks.map(({ name, example, default: stated }) => [name, stated ?? example ?? '']))
  values.set('key', '11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo=')
  const rows = (base: string) =>
    (fill(made, values, base) as { rows: { owner: string; type: number; data: Uint8Array }[] }).rows
  expect(rows(ZONE).map(({ owner, type, data }) => ({ owner, type, data }))).toEqual(
    sets.flatMap(({ owner, type, data }) => data.map((each) => ({ owner, type, data: each }))),
  )
  expect(made.blanks.map(({ name }) => name).sort()).toEqual(['address', 'address2', 'domain', 'key', 'verification'])
  expect(JSON.stringify(rows('lakepass.example.'))).not.toContain('hollowmere')
})

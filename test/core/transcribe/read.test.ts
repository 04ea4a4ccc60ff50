/** Pasted texts read: the corpus, what any layout says alike, and what no text may cost. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { foldName } from '../../../src/core/names/name.ts'
import { parseType, typeText } from '../../../src/core/records/types.ts'
import { joined } from '../../../src/core/records/views.ts'
import { readInstructions } from '../../../src/core/transcribe/read.ts'
import { growsLinearly } from '../../pace.ts'
import { readOf, samples } from './corpus.ts'

describe.each(['open', 'held', 'later'] as const)('corpus, %s', (part) => {
  test.each(samples(part))('$name', (sample) => {
    expect(readOf(sample).sort()).toEqual([...sample.expected].sort())
  })
})

const ZONE = 'brackenmoor.example.'

interface Stated {
  type: string
  owner: string
  value: string
  preference?: string
}

const label = fc.stringMatching(/^[a-z][a-z0-9]{2,8}$/).filter((word) => parseType(word) === undefined)
const host = fc.tuple(label, label).map(([a, b]) => `${a}.${b}.example`)
const owner = fc.oneof(
  fc.constant('@'),
  label,
  label.map((each) => `${each}._domainkey`),
)
const stated: fc.Arbitrary<Stated> = fc.oneof(
  fc.record({ type: fc.constant('CNAME'), owner: label, value: host }),
  fc.record({ type: fc.constant('MX'), owner, value: host, preference: fc.integer({ min: 0, max: 50 }).map(String) }),
  fc.record({ type: fc.constant('A'), owner, value: fc.ipV4() }),
  fc.record({ type: fc.constant('AAAA'), owner, value: fc.ipV6() }),
  fc.record({
    type: fc.constant('TXT'),
    owner: label,
    value: fc.tuple(label, label).map(([a, b]) => `${a}-verification=${b}`),
  }),
)

/** The same records in every layout that people paste. */
const LAYOUTS: Record<string, (all: readonly Stated[]) => string> = {
  tabs: (all) =>
    ['Type\tHost\tValue\tPriority', ...all.map((r) => [r.type, r.owner, r.value, r.preference ?? ''].join('\t'))].join(
      '\n',
    ),
  'tabs, turned': (all) =>
    ['Wert\tPriorität\tName\tTyp', ...all.map((r) => [r.value, r.preference ?? '', r.owner, r.type].join('\t'))].join(
      '\n',
    ),
  markdown: (all) =>
    [
      '| Name | Type | Content | Prio |',
      '|---|---|---|---|',
      ...all.map((r) => `| ${r.owner} | ${r.type} | \`${r.value}\` | ${r.preference ?? '-'} |`),
    ].join('\n'),
  csv: (all) =>
    ['type,name,value,priority', ...all.map((r) => `${r.type},${r.owner},"${r.value}",${r.preference ?? ''}`)].join(
      '\n',
    ),
  labels: (all) =>
    all
      .map(
        (r) =>
          `Type: ${r.type}\nName: ${r.owner}\nValue: ${r.value}\n${r.preference ? `Priority: ${r.preference}\n` : ''}`,
      )
      .join('\n'),
  'zone file': (all) =>
    all
      .map(
        (r) =>
          `${r.owner} 3600 IN ${r.type} ${r.preference ? `${r.preference} ` : ''}${['CNAME', 'MX'].includes(r.type) ? `${r.value}.` : r.type === 'TXT' ? `"${r.value}"` : r.value}`,
      )
      .join('\n'),
  json: (all) =>
    JSON.stringify(
      all.map((r) => ({
        type: r.type,
        host: r.owner,
        value: r.value,
        ...(r.preference ? { priority: Number(r.preference) } : {}),
      })),
      null,
      2,
    ),
  xml: (all) =>
    `<records>${all.map((r) => `<record><type>${r.type}</type><name>${r.owner}</name><value>${r.value}</value>${r.preference ? `<priority>${r.preference}</priority>` : ''}</record>`).join('\n')}</records>`,
  'html table': (all) =>
    `<table><tr><th>Type</th><th>Name</th><th>Value</th><th>Priority</th></tr>${all.map((r) => `<tr><td>${r.type}</td><td>${r.owner}</td><td>${r.value}</td><td>${r.preference ?? ''}</td></tr>`).join('\n')}</table>`,
  'quoted mail': (all) =>
    [
      '> Type\tHost\tValue\tPriority',
      ...all.map((r) => `> ${[r.type, r.owner, r.value, r.preference ?? ''].join('\t')}`),
    ].join('\n'),
}

const said = (text: string): string[] =>
  readInstructions(text, ZONE)
    .rows.map(
      ({ owner, type, data, value }) =>
        `${foldName(owner)} ${typeText(type)} ${typeText(type) === 'TXT' ? joined(data) : value}`,
    )
    .sort()

test.each([
  ['add 3600 IN CNAME site.northlight.example.', 'add.brackenmoor.example. CNAME site.northlight.example.'],
  ['new IN A 192.0.2.1', 'new.brackenmoor.example. A 192.0.2.1'],
  ['remove 60 IN TXT "x"', 'remove.brackenmoor.example. TXT x'],
  ['add www 3600 IN A 192.0.2.1', 'www.brackenmoor.example. A 192.0.2.1'],
])('names that are words of what is to be done: %s', (text, expected) => expect(said(text)).toEqual([expected]))

test.each(Object.keys(LAYOUTS))('what is stated is what is read: %s', (layout) => {
  fc.assert(
    fc.property(
      fc.uniqueArray(stated, { minLength: 1, maxLength: 6, selector: (r) => `${r.owner} ${r.type}` }),
      (all) => {
        expect(said(LAYOUTS[layout]!(all))).toEqual(said(LAYOUTS['zone file']!(all)))
        expect(said(LAYOUTS['zone file']!(all))).toHaveLength(all.length)
      },
    ),
    { numRuns: 60 },
  )
})

test('no text of any kind makes it stumble', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 300 }), (text) => void readInstructions(text, ZONE)),
    { numRuns: 500 },
  )
  const pieces = fc.constantFrom(
    'MX',
    '@',
    '10',
    '\t',
    '|',
    '"',
    '(',
    ')',
    '\n',
    ': ',
    'Type',
    'Host:',
    '<',
    '>',
    '{',
    '}',
    'v=spf1',
    'p=',
    'IN',
    'a.example',
    '192.0.2.1',
    '$ORIGIN ',
    '- ',
    '&amp;',
  )
  fc.assert(
    fc.property(fc.array(pieces, { maxLength: 60 }), (all) => void readInstructions(all.join(' '), ZONE)),
    { numRuns: 1000 },
  )
})

const repeated = (n: number, of: (i: number) => string): string => Array.from({ length: n }, (_, i) => of(i)).join('')

test.each<[string, (n: number) => string]>([
  ['bars', (n) => '|'.repeat(n * 64)],
  ['rows', (n) => 'CNAME\twww\tedge.northlight.example\n'.repeat(n)],
  ['words', (n) => 'word '.repeat(n * 8)],
  ['sentences', (n) => 'Please add a CNAME record for shop to a.example and b.example. '.repeat(n)],
  ['labels', (n) => 'Type: TXT\nHost: a\nValue: "v=spf1\n'.repeat(n)],
  ['parentheses', (n) => 'a IN TXT ( "x"\n'.repeat(n)],
  ['braces', (n) => '[{'.repeat(n * 8)],
  ['tags', (n) => '<td>'.repeat(n * 8)],
  [
    'a JSON list',
    (n) => JSON.stringify(Array.from({ length: n }, (_, i) => ({ type: 'A', name: `h${i}`, value: '192.0.2.1' }))),
  ],
  ['a YAML list', (n) => '- type: A\n  name: h\n  value: 192.0.2.1\n'.repeat(n)],
  ['blanks', (n) => '<selector> {{x}} x.x.x.x '.repeat(n)],
  ['letters', (n) => `TXT @ ${'a'.repeat(n * 64)}`],
  ['base64', (n) => `Type: TXT\nHost: k._domainkey\nValue: p=${'A'.repeat(60)}\n${`${'B'.repeat(60)}\n`.repeat(n)}`],
  ['types that stand alone', (n) => repeated(n, (i) => `TXT\n\nA h${i} 192.0.2.4\n\n`)],
  ['corrections', (n) => repeated(n, (i) => `A h${i} 192.0.2.4\n\nSorry, it should be 198.51.100.${i % 256}.\n\n`)],
  ['a page with blank lines', (n) => 'Sure.\n\n'.repeat(n * 8)],
  ['labels of a page with blank lines', (n) => 'Type\n\nName\n\nValue\n\n'.repeat(n * 2)],
  ['quotes', (n) => '"\\'.repeat(n * 32)],
])('reading takes no longer than a text is long: %s', async (what, textOf) => {
  await growsLinearly(
    what,
    (n) => {
      const text = textOf(n)
      return () => readInstructions(text, ZONE)
    },
    1536,
  )
})

test.each(['', '| Weight |', 'Type:', '- {', 'TXT @ "v=spf1'])(
  'reading takes no longer than a line is long that begins with “%s”',
  async (begin) => {
    for (const unit of [' ', '\t', 'a ', '| ', '.'])
      for (const end of ['', ' |', ' x |'])
        await growsLinearly(
          JSON.stringify([begin, unit, end]),
          (n) => {
            const line = `${begin}${unit.repeat(n * 2)}${end}`
            return () => readInstructions(`Type | Host | Value\n${line}\n${line}`, ZONE)
          },
          1536,
        )
  },
)

/** Any pasted text at all, on its whole way into a zone: read, joined, put to the zone. Nothing of it may fail as a fault of the program. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { joinInto } from '../../../src/core/change/join/join.ts'
import { preview } from '../../../src/core/change/preview.ts'
import { withReverse } from '../../../src/core/change/reverse.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { readInstructions } from '../../../src/core/transcribe/read.ts'
import { samples } from './corpus.ts'

const ZONE = 'hollowmere.example.'

const NAMES = [
  'imap',
  '@',
  '*',
  'www',
  '_dmarc',
  's1._domainkey',
  '_sip._tcp',
  ZONE,
  'a.example',
  'bücher',
  'xn--a',
  '',
]
const TYPES = ['A', 'AAAA', 'MX', 'CNAME', 'TXT', 'SRV', 'NS', 'CAA', 'TLSA', 'PTR', 'SPF', 'DMARC', 'DKIM', 'HTTPS']
const VALUES = [
  '192.0.2.1',
  '2001:db8::1',
  '10 mail',
  '0 5 5060 sip',
  'v=spf1 mx -all',
  '"x" "y"',
  'v=DMARC1; p=none',
  '.',
]
const ODD = [
  '\\5',
  '\\',
  '\\300',
  '\\.',
  '\\065',
  '\\000',
  '..',
  '\u200b',
  '\u202e',
  '"',
  '(',
  '$',
  '%',
  'ß',
  '.'.repeat(4),
  'x'.repeat(70),
]
const SEPARATORS = [' ', '\t', ' | ', ',', ': ', ' = ', ' → ', '\n']

const odd = fc.oneof({ weight: 3, arbitrary: fc.constant('') }, fc.constantFrom(...ODD))
const cell = fc
  .tuple(odd, fc.constantFrom(...NAMES, ...TYPES, ...VALUES), odd)
  .map(([before, word, behind]) => before + word + behind)
const row = fc
  .tuple(fc.constantFrom(...SEPARATORS), fc.array(cell, { maxLength: 6 }))
  .map(([separator, cells]) => cells.join(separator))
/** Rows as people state them: with a type, a name and a value, one of them damaged. */
const record = fc
  .tuple(
    fc.constantFrom(...SEPARATORS),
    fc.constantFrom(...TYPES),
    fc.constantFrom(...NAMES),
    odd,
    fc.constantFrom(...VALUES),
    odd,
    fc.boolean(),
  )
  .map(([separator, type, name, afterName, value, afterValue, isNameFirst]) =>
    [...(isNameFirst ? [name + afterName, type] : [type, name + afterName]), value + afterValue].join(separator),
  )
const head = fc.constantFrom(
  '',
  'Type\tHost\tValue\n',
  'Host | Type | Value\n',
  'Name,Type,Content\n',
  '$ORIGIN \\5.example.\n',
)
const SAMPLES = (['open', 'held', 'later'] as const).flatMap((part) =>
  samples(part).map(({ octets }) => new TextDecoder().decode(octets)),
)
/** A sample with odd signs put in. */
const damaged = fc
  .tuple(fc.constantFrom(...SAMPLES), fc.array(fc.tuple(fc.nat(), fc.constantFrom(...ODD)), { maxLength: 5 }))
  .map(([text, puts]) =>
    puts.reduce((all, [where, put]) => {
      const at = where % (all.length + 1)
      return all.slice(0, at) + put + all.slice(at)
    }, text),
  )
const anyText = fc.oneof(
  {
    weight: 4,
    arbitrary: fc
      .tuple(head, fc.array(fc.oneof(record, row), { maxLength: 4 }))
      .map(([h, rows]) => h + rows.join('\n')),
  },
  { weight: 1, arbitrary: damaged },
  { weight: 1, arbitrary: fc.string({ unit: 'binary', maxLength: 80 }) },
)

test('comes to records, questions and reasons', async () => {
  await fc.assert(
    fc.asyncProperty(anyText, async (text) => {
      const found = readInstructions(text, ZONE)
      for (const { owner } of found.rows) expect(typeof nameToWire(owner), owner).not.toBe('string')
      const zones = exampleZones('www A 192.0.2.7\n@ TXT "v=spf1 -all"\nmail MX 10 www\n')
      const zone = zones.zones[0]!
      const joined = joinInto(zones, zone, found.rows, found.intents, () => 'replace')
      withReverse(zones, joined.changes)
      await preview(
        zones,
        { parts: [{ zone, sets: joined.changes }] },
        { now: new Date(0), around: {}, digests: false, reload: () => zones },
      )
    }),
    { numRuns: Number(process.env.PASTES ?? 1000) },
  )
})

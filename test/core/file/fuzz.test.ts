import { readdirSync, readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { questionsFor } from '../../../src/core/confirm/questions.ts'
import { answer, check, editZone, keepTogether, parseZoneFile } from '../../../src/index.ts'
import { VECTORS } from '../records/vectors.ts'

const REAL = [
  ...readdirSync('demo/zones').map((file) => readFileSync(`demo/zones/${file}`)),
  Buffer.from(
    `$TTL 1\n${VECTORS.map(([type, text], i) => `v${i} ${type} ${text}`).join('\n')}\n$GENERATE 1-4 g\${0,2} A 192.0.2.$\n`,
  ),
]
const ODD = [
  '(',
  ')',
  '"',
  '\\',
  '\n',
  ';',
  '$',
  '$ORIGIN ',
  '$INCLUDE x',
  '$GENERATE 0-999999999 a A 1',
  '.',
  '..',
  '@',
  '*',
  '\\999',
  '\\# ',
  ' \t',
  '\r',
  '\0',
  'é',
  'TYPE65535',
  '99999999999',
  '$TTL ',
  'x'.repeat(300),
]

/** A real file with some stretches cut out, doubled, or replaced by odd signs. */
const mutated = fc
  .tuple(
    fc.constantFrom(...REAL),
    fc.array(
      fc.tuple(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.nat(12),
        fc.oneof(fc.constantFrom(...ODD), fc.constant('')),
      ),
      { maxLength: 12 },
    ),
  )
  .map(([file, changes]) => {
    let text = file.toString('latin1')
    for (const [where, length, put] of changes) {
      const at = Math.floor(where * text.length)
      text = text.slice(0, at) + put + text.slice(at + length)
    }
    return new Uint8Array(Buffer.from(text, 'latin1'))
  })
const anything = fc.oneof(mutated, fc.uint8Array({ maxLength: 400 }))

describe('whatever the file, nothing fails, hangs or points outside it', () => {
  test('reading, checking and editing', async () => {
    await fc.assert(
      fc.asyncProperty(anything, async (octets) => {
        const options = { zone: 'hollowmere.example', file: 'f' }
        const lines = new TextDecoder().decode(octets).split('\n').length
        const { records, problems } = parseZoneFile(octets, options)
        for (const { line, column } of [...records, ...problems])
          expect(line >= 1 && line <= lines && column >= 1).toBe(true)
        const { findings } = await check(keepTogether([{ input: octets, ...options }]))
        expect(findings.filter(({ rule }) => rule === 'internal/error')).toEqual([])
        for (const { line, column, message } of findings)
          expect(line >= 1 && line <= lines && column >= 1 && message.length > 0).toBe(true)
        const edited = editZone(octets, 'hollowmere.example.', [
          { owner: 'new.hollowmere.example.', type: 1, data: [new Uint8Array([192, 0, 2, 1])] },
        ])
        if ('octets' in edited) {
          const after = parseZoneFile(edited.octets, options)
          const unread = (all: typeof problems): number => all.filter((each) => !each.read).length
          expect([after.records.length, unread(after.problems)]).toEqual([
            records.filter((each) => each.owner !== 'new.hollowmere.example.' || each.type !== 1).length + 1,
            unread(problems),
          ])
        }
      }),
      { numRuns: 300 },
    )
  })

  test.each<[string, () => string, string]>([
    ['a line of thirty megabytes', () => `a TXT ${'x'.repeat(30_000_000)}`, 'entry-too-long'],
    ['thirty megabytes in quotes', () => `a TXT "${'x'.repeat(30_000_000)}"`, 'entry-too-long'],
    ['a name of a million labels', () => `${'a.'.repeat(500_000)} A 192.0.2.1`, 'name-too-long'],
    ['a million strings', () => `a TXT ${'x '.repeat(500_000)}`, 'bad-value'],
    ['a million parentheses', () => '(\n'.repeat(1_000_000), 'parenthesis'],
    ['a million quotes', () => '"\n'.repeat(1_000_000), 'no-type'],
    ['a million unclosed quotes', () => '"x\n'.repeat(1_000_000), 'bad-quote'],
    ['too many generated', () => '$GENERATE 0-999999999 a$ A 192.0.2.1', 'generate'],
  ])('%s', (_what, text, kind) => {
    const { problems, records } = parseZoneFile(`$TTL 1\n${text()}\nend A 192.0.2.9\n`, { zone: 'hollowmere.example' })
    expect(problems[0]!.kind).toBe(kind)
    expect(records.map((record) => record.owner)).toEqual(['end.hollowmere.example.'])
  })
})

describe('zones that point at one another, some empty or unreadable', () => {
  const apexes = ['one.example.', 'sub.one.example.', 'two.example.', '.', 'example.']
  const names = [...apexes, '@', 'www', '*', 'a.b', '*.sub', 'www.two.example.', 'x.sub.one.example.', 'none.example.']
  const pointing = fc
    .tuple(
      fc.constantFrom(...names),
      fc.constantFrom('MX 10', 'CNAME', 'NS', 'DNAME', 'SRV 0 0 1', 'PTR', 'A 192.0.2.1 ;'),
      fc.constantFrom(...names),
    )
    .map((parts) => parts.join(' '))
  const soa = '$TTL 1\n@ SOA ns hostmaster 1 2 3 4 5\n'
  const text = fc.oneof(
    fc.constantFrom('', '; nothing\n', '(\n', '@ SOA broken\n', '\0', 'other.example. A 192.0.2.1\n'),
    fc
      .tuple(fc.constantFrom('', soa), fc.array(pointing, { maxLength: 8 }))
      .map(([head, lines]) => `${head}${lines.join('\n')}\n`),
  )
  test('checking, answering and asking come to an end', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.subarray(apexes, { minLength: 2, maxLength: 3 }),
        fc.array(text, { minLength: 3, maxLength: 3 }),
        async (zone, texts) => {
          const zones = keepTogether(zone.map((each, i) => ({ input: texts[i]!, zone: each })))
          expect((await check(zones)).findings.filter(({ rule }) => rule === 'internal/error')).toEqual([])
          for (const name of names)
            for (const type of [1, 2, 5, 6, 15, 39, 43])
              expect(answer(zones, name === '@' ? zone[0]! : name, type).rcode).toBeLessThanOrEqual(6)
          for (const each of zones.zones) questionsFor(zones, each, 'fresh')
        },
      ),
      { numRuns: 400 },
    )
  })
})

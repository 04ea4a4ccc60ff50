import { readdirSync, readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { check, editZone, keepTogether, parseZoneFile } from '../../../src/index.ts'
import { VECTORS } from '../records/vectors.ts'

const REAL = [
  ...readdirSync('demo/zones').map((file) => readFileSync(`demo/zones/${file}`)),
  Buffer.from(`$TTL 1\n${VECTORS.map(([type, text], i) => `v${i} ${type} ${text}`).join('\n')}\n$GENERATE 1-4 g\${0,2} A 192.0.2.$\n`),
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
    fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.nat(12), fc.oneof(fc.constantFrom(...ODD), fc.constant(''))), { maxLength: 12 }),
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
        for (const { line, column } of [...records, ...problems]) expect(line >= 1 && line <= lines && column >= 1).toBe(true)
        const { findings } = await check(keepTogether([{ input: octets, ...options }]))
        for (const { line, column, message } of findings) expect(line >= 1 && line <= lines && column >= 1 && message.length > 0).toBe(true)
        const edited = editZone(octets, 'hollowmere.example.', [{ owner: 'new.hollowmere.example.', type: 1, data: [new Uint8Array([192, 0, 2, 1])] }])
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
    expect(problems[0].kind).toBe(kind)
    expect(records.map((record) => record.owner)).toEqual(['end.hollowmere.example.'])
  })
})

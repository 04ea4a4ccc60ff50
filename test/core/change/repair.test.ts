/** Repairs: what they were made for is gone afterwards, nothing else has changed. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { repaired } from '../../../src/core/change/repair.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { CATALOGUE } from '../../../src/core/rules/catalogue.ts'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleTexts, exampleZones } from '../../../src/core/rules/example.ts'
import type { Example, Finding } from '../../../src/core/rules/rule.ts'

const NOW = new Date('2026-11-23T08:00:00Z')
const text = (octets: Uint8Array): string => new TextDecoder().decode(octets)

/** The texts of an example's zones after every repair, and what was left. */
async function repairs(
  example: Example,
  only?: string,
): Promise<{ texts: Record<string, string>; findings: Finding[]; left: string[] }> {
  const zones = exampleZones(example)
  const { findings } = await check(zones, exampleAround(example))
  const { done, left } = repaired(zones, only ? findings.filter((each) => each.rule === only) : findings, NOW)
  const texts = exampleTexts(example)
  for (const { zone, files } of done) texts[zone.name.slice(0, -1)] = text(files.at(-1)!.octets)
  return { texts, findings, left: left.map(({ finding, why }) => `${finding.rule}: ${why}`) }
}

test('of every rule’s own faults, a repair puts right what it was made for, and brings no error', async () => {
  const codes = new Set<string>()
  for (const { code, bad } of CATALOGUE)
    for (const example of bad) {
      const { texts, findings } = await repairs(example, code)
      if (!findings.some((each) => each.rule === code && each.repair)) continue
      codes.add(code)
      const after = (await check(exampleZones({ whole: true, zones: texts }), exampleAround(example))).findings
      expect(after.filter((each) => each.rule === code)).toEqual([])
      expect(
        after.filter(
          (each) =>
            each.severity === 'error' && !findings.some((one) => one.rule === each.rule && one.owner === each.owner),
        ),
      ).toEqual([])
    }
  expect([...codes].sort()).toEqual([
    'file/byte-order-mark',
    'file/carriage-return',
    'file/parameter-name',
    'file/quoted',
    'file/relative-origin',
    'file/touching',
    'file/unquoted',
    'mx/host-without-reverse',
    'mx/null-preference',
    'name/doubled-zone',
    'name/final-dot-missing',
    'name/not-an-a-label',
    'set/duplicate-record',
    'soa/mailbox-at-sign',
    'soa/serial-not-advanced',
    'txt/not-ascii',
    'txt/stray-quotes',
    'txt/string-too-long',
    'txt/typographic-quotes',
    'txt/unquoted-spaces',
  ])
})

test.each([
  ['t TXT "one"two"three"', 't TXT "one" two "three"'],
  ['t TXT one"two"', 't TXT one "two"'],
  ['m MX "10""mx.larkpost.example."', 'm MX 10 mx.larkpost.example.'],
  ['m MX "10"mx.larkpost.example.', 'm MX 10 mx.larkpost.example.'],
  ['"t""300""TXT""x"', 't 300 TXT "x"'],
  ['t A ("192.0.2.1")', 't A (192.0.2.1)'],
  ['$GENERATE 1-2 u$ URI "1 1 x:y"', '$GENERATE 1-2 u$ URI "1 1 x:y"'],
])('quotes and blanks: %s becomes %s', async (before, after) => {
  const { texts } = await repairs(before)
  expect(texts['hollowmere.example']!.split('\n')[4]).toBe(after)
})

test('a repair changes its own octets and the serial, whatever stands around', async () => {
  const line = fc.constantFrom(
    'a A 192.0.2.1',
    '  ; a comment',
    'b TXT "x"  ; why',
    '',
    'c 300 IN MX 10 mx.larkpost.example.',
    '\t A 192.0.2.2',
    '$TTL 600',
    'd TXT ( "one"\n "two" )',
  )
  await fc.assert(
    fc.asyncProperty(fc.array(line), fc.array(line), async (before, after) => {
      const around = (middle: string): string => ['first A 192.0.2.9', ...before, middle, ...after].join('\n')
      const { texts } = await repairs(around('www CNAME site.hollowmere.example'), 'name/doubled-zone')
      const now = Object.values(texts)[0]!
      const [was] = Object.values(exampleTexts(around('www CNAME site.hollowmere.example.')))
      expect(now.replace(/2026\d{6}/, '2026112301')).toBe(was)
    }),
    { numRuns: 60 },
  )
})

describe('what is left', () => {
  test('two repairs of the same octets: the second waits for the next call', async () => {
    const { texts, left } = await repairs('www CNAME größe.hollowmere.example\nxn--gre-6ka8i A 192.0.2.1')
    expect(left).toEqual([expect.stringContaining('another fix changes the same place')])
    expect(texts['hollowmere.example']).toMatch(
      /^www CNAME (?:größe\.hollowmere\.example\.|xn--gre-6ka8i\.hollowmere\.example)$/m,
    )
  })

  test('a file that is included more than once', async () => {
    const zones = new Zones()
    const shared = { file: 'shared', octets: octetsOf('www CNAME site.hollowmere.example\n') }
    const head = '$TTL 60\n@ SOA a. b. 1 2 3 4 5\n@ NS a.\n@ NS b.\n$INCLUDE shared\n'
    for (const name of ['hollowmere.example', 'lakepass.example'])
      readZone(zones, zones.addSource(zones.addZone(`${name}.`, name), name, octetsOf(head)), { include: () => shared })
    zones.seal()
    const { findings } = await check(zones)
    const { done, left } = repaired(zones, findings, NOW, () => shared)
    expect(done).toEqual([])
    expect(left.map(({ why }) => why)).toContain('shared is included more than once')
  })
})

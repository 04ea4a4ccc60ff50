/** Findings stand at the right place; what they say is in the snapshot of all sentences. */
import { expect, test } from 'vitest'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleZones } from '../../../src/core/rules/example.ts'
import { SAID, SAID_OF_MAIL } from './said.ts'

test.each(SAID)('%j: %s', async (example, rule, place) => {
  const { findings } = await check(exampleZones(example), exampleAround(example))
  const found = findings.filter((each) => each.rule === rule)
  expect(found.map((each) => `${each.line}:${each.column}`)).toContain(place)
  const finding = found.find((each) => `${each.line}:${each.column}` === place)!
  // It points at something that stands there.
  expect(
    [...finding.text]
      .slice(finding.column - 1, finding.column - 1 + finding.length)
      .join('')
      .trim(),
  ).not.toBe('')
})

test.each(SAID_OF_MAIL)('%j: %s', async (example, expected, marked) => {
  const { findings } = await check(exampleZones(example), exampleAround(example))
  const found = findings.find((each) => `${each.severity} ${each.rule} ${each.line}:${each.column}` === expected)
  expect(found, JSON.stringify(findings)).toBeDefined()
  expect(found!.text.slice(found!.column - 1, found!.column - 1 + found!.length).startsWith(marked)).toBe(true)
})

const many = (count: number, of: (i: number) => string): string =>
  Array.from({ length: count }, (_, i) => of(i)).join(' ')
const strings = (text: string): string =>
  text
    .match(/.{1,255}/g)!
    .map((each) => `"${each}"`)
    .join(' ')
const LAYERS = Array.from({ length: 12 }, (_, layer) =>
  Array.from(
    { length: 12 },
    (_, i) =>
      `l${layer}-${i} TXT ${strings(`v=spf1 ${many(12, (k) => `include:l${layer + 1}-${k}.hollowmere.example`)} -all`)}`,
  ).join('\n'),
).join('\n')

test.each([
  [
    'four thousand private ranges',
    `@ TXT ${strings(`v=spf1 ${many(4000, (i) => `ip4:10.${i >> 8}.${i & 255}.1`)} -all`)}`,
    'spf/private-address',
    20,
  ],
  [
    'six thousand unknown tags',
    `_dmarc TXT ${strings(`v=DMARC1; p=none; ${many(6000, (i) => `x${i}=1;`)}`)}`,
    'dmarc/unknown-tag',
    20,
  ],
  ['nine thousand faults', `@ TXT ${strings(`v=spf1 ${many(9000, (i) => `m${i}`)}`)}`, 'spf/syntax', 50],
  [
    'twelve layers that include one another',
    `@ TXT "v=spf1 include:l0-0.hollowmere.example -all"\n@ MX 10 l0-0\nl0-0 A 192.0.2.1\n${LAYERS}`,
    'spf/too-many-lookups',
    145,
  ],
])('%s are told of, and not each by itself', async (_what, text, rule, count) => {
  const { findings } = await check(exampleZones(text))
  const found = findings.filter((each) => each.rule === rule).length
  expect(found).toBeGreaterThan(0)
  expect(found).toBeLessThanOrEqual(count)
})

import { existsSync } from 'node:fs'
import { describe, expect, test } from 'vitest'
import { CATALOGUE } from '../../../src/core/rules/catalogue.ts'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleZones } from '../../../src/core/rules/example.ts'
import type { Example } from '../../../src/core/rules/rule.ts'
import { MISSING } from './small.ts'

const text = (example: Example) =>
  (typeof example === 'string' ? example : Object.values(example.zones).join('\n')).slice(0, 70)

describe.each(CATALOGUE)('$code', (rule) => {
  test('says what it means, and lies where its code says', () => {
    expect(existsSync(`src/core/rules/${rule.code}.ts`)).toBe(true)
    for (const words of [rule.source, rule.title, rule.why, rule.remedy]) expect(words.length).toBeGreaterThan(7)
    expect(rule.bad.length * rule.good.length).toBeGreaterThan(0)
    for (const code of rule.silences ?? []) expect(CATALOGUE.map((each) => each.code)).toContain(code)
  })
  test.each(rule.bad.map((example) => [text(example), example] as const))(
    'is the one finding of: %s',
    async (_text, example) => {
      const { findings } = await check(exampleZones(example), exampleAround(example))
      // Advice on other matters may stand beside it.
      expect(
        findings
          .filter((each) => each.rule === rule.code || (each.severity !== 'advice' && !MISSING.has(each.rule)))
          .map((each) => each.rule),
      ).toEqual([rule.code])
      const finding = findings.find((each) => each.rule === rule.code)!
      expect(finding.message.length * finding.effect.length * finding.fix.length).toBeGreaterThan(0)
      expect(finding.owner === '' || finding.owner.endsWith('.')).toBe(true)
      expect(finding.line).toBeGreaterThan(0)
    },
  )
  test.each(rule.good.map((example) => [text(example), example] as const))(
    'is silent at: %s',
    async (_text, example) => {
      const { findings } = await check(exampleZones(example), exampleAround(example))
      expect(
        findings.filter(
          (finding) => finding.rule === rule.code || (finding.severity !== 'advice' && !MISSING.has(finding.rule)),
        ),
      ).toEqual([])
    },
  )
})

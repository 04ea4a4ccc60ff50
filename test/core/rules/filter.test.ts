import { expect, test } from 'vitest'
import { CATALOGUE } from '../../../src/core/rules/catalogue.ts'
import { type CheckResult, check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleZones } from '../../../src/core/rules/example.ts'
import type { Rule, SetVisit } from '../../../src/core/rules/rule.ts'

/** The rule without its filter: it is offered every set of its types, and every record. */
function unfiltered(rule: Rule): Rule {
  const { set, record, finish, ...visit } = rule.visit
  const sets = Object.entries(set ?? {}).map(([type, stated]): [string, SetVisit] => [
    type,
    typeof stated === 'function' ? stated : stated!.visit,
  ])
  return {
    ...rule,
    visit: {
      ...visit,
      set: Object.fromEntries(sets),
      async finish(cx) {
        if (record) cx.eachRecord((each) => record.visit(each, cx))
        await finish?.(cx)
      },
    },
  }
}

const told = ({ findings }: CheckResult): string[] =>
  findings.map((each) => `${each.rule} ${each.file}:${each.line}:${each.column} ${each.message}`).sort()

const EXAMPLES = CATALOGUE.flatMap((rule) => [...rule.bad, ...rule.good])

test('rules that are offered everything find what they find through the filter', async () => {
  const catalogue = CATALOGUE.map(unfiltered)
  const codes = new Set<string>()
  for (const example of EXAMPLES) {
    const through = told(await check(exampleZones(example), exampleAround(example)))
    const all = told(await check(exampleZones(example), { ...exampleAround(example), catalogue }))
    for (const each of [...all, ...through])
      if (all.includes(each) !== through.includes(each)) codes.add(each.split(' ')[0]!)
  }
  expect([...codes]).toEqual([])
})

/** Where a circle of aliases is told, and of two files for one zone which, is that of the first; what is told is the same. */
test('the order in which zones are read makes no difference to what is told', async () => {
  const codes = ({ findings }: CheckResult) => findings.map(({ rule }) => rule).sort()
  const several = EXAMPLES.filter((example) => typeof example !== 'string')
  expect(several.length).toBeGreaterThan(20)
  for (const example of several) {
    const turned = { ...example, zones: Object.fromEntries(Object.entries(example.zones).reverse()) }
    expect(codes(await check(exampleZones(turned), exampleAround(turned)))).toEqual(
      codes(await check(exampleZones(example), exampleAround(example))),
    )
  }
})

/** Lines that are whole by themselves: each states its owner and closes its quotes, and none is a directive or stands in parentheses. */
const isPlain = (text: string): boolean =>
  text.split('\n').every((line) => /^[^\s;$("](?:[^()"]|"(?:[^"\\]|\\.)*")*$/.test(line))

/** Of records that are at odds with one another, which is told of depends on which comes first; what is told of whom does not. */
test('the order of records makes no difference to what is told', async () => {
  const codes = ({ findings }: CheckResult) => findings.map(({ rule }) => rule).sort()
  const plain = EXAMPLES.filter((example) => typeof example === 'string' && example.includes('\n') && isPlain(example))
  expect(plain.length).toBeGreaterThan(200)
  const other: unknown[] = []
  for (const example of plain) {
    const turned = (example as string).split('\n').reverse().join('\n')
    const [there, back] = [codes(await check(exampleZones(example))), codes(await check(exampleZones(turned)))]
    if (there.join() !== back.join()) other.push({ example, there, back })
  }
  expect(other).toEqual([])
})

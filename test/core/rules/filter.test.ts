import { expect, test } from 'vitest'
import { CATALOGUE } from '../../../src/core/rules/catalogue.ts'
import { check } from '../../../src/core/rules/engine.ts'
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

test('rules that are offered everything find what they find through the filter', async () => {
  const everything = CATALOGUE.map(unfiltered)
  const wanting: string[] = []
  for (const rule of CATALOGUE)
    for (const example of [...rule.bad, ...rule.good]) {
      const through = await check(exampleZones(example), exampleAround(example))
      const all = await check(exampleZones(example), { ...exampleAround(example), catalogue: everything })
      const told = ({ findings }: typeof all) =>
        findings.map((each) => `${each.rule} ${each.file}:${each.line}:${each.column} ${each.message}`).sort()
      if (told(all).join('\n') !== told(through).join('\n'))
        for (const each of told(all)) if (!told(through).includes(each)) wanting.push(each.split(' ')[0]!)
    }
  expect([...new Set(wanting)].sort()).toEqual([])
})

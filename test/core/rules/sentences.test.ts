/** Every sentence of the rules, in one snapshot: a change of words is a diff that can be read. Nothing else pins them. */
import { expect, test } from 'vitest'
import { CATALOGUE } from '../../../src/core/rules/catalogue.ts'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleZones } from '../../../src/core/rules/example.ts'
import type { Example, Finding } from '../../../src/core/rules/rule.ts'
import { SAID, SAID_OF_MAIL } from './said.ts'

const told = ({ message, effect, fix }: Finding): string =>
  [message, `  effect: ${effect}`, ...fix.map((each) => `  fix: ${each}`)].join('\n')

const short = (text: string): string => (text.length > 600 ? `${text.slice(0, 600)} …` : text)

async function allOf(example: Example, rule: string): Promise<string[]> {
  const { findings } = await check(exampleZones(example), exampleAround(example))
  return findings.filter((each) => each.rule === rule).map((each) => short(told(each)))
}

test('what rules say', async () => {
  const said = new Map<string, Set<string>>()
  const add = async (example: Example, rule: string): Promise<void> => {
    for (const text of await allOf(example, rule)) {
      if (!said.has(rule)) said.set(rule, new Set())
      said.get(rule)!.add(text)
    }
  }
  for (const rule of CATALOGUE) for (const example of rule.bad) await add(example, rule.code)
  for (const [example, rule] of SAID) await add(example, rule)
  for (const [example, expected] of SAID_OF_MAIL) await add(example, expected.split(' ')[1]!)
  const metas = new Map(
    CATALOGUE.map(({ code, severity, title, why, remedy }) => [code, [`${severity}: ${title}`, why, remedy]]),
  )
  const codes = [...new Set([...metas.keys(), ...said.keys()])].sort()
  const text = codes
    .map((code) => [`## ${code}`, ...(metas.get(code) ?? []), '', ...(said.get(code) ?? []), ''].join('\n'))
    .join('\n')
  await expect(text).toMatchFileSnapshot('../../sentences/rules.txt')
})

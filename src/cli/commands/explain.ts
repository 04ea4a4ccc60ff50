import type { Command } from 'commander'
import { CATALOGUE, ruleOf } from '../../core/rules/catalogue.ts'
import { exampleTexts } from '../../core/rules/example.ts'
import type { Example, Rule } from '../../core/rules/rule.ts'
import { codeWords } from '../../core/rules/select.ts'
import { nearestThen } from '../../workspace/nearest.ts'
import { Trouble } from '../../workspace/trouble.ts'
import type { RuleDocument } from '../documents/explain.ts'
import { jsonOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'
import { table } from '../output/table.ts'

const ruleJson = ({ code, severity, source, title, why, remedy, silences, live, bad, good }: Rule): RuleDocument => ({
  code,
  severity,
  live: live === true,
  source,
  title,
  why,
  remedy,
  silences: silences ?? [],
  bad,
  good,
})

export const define = (command: Command): Command =>
  command
    .argument('[code]', 'a rule’s code, as in mx/target-is-alias, or a family, as in mx (default: list them all)')
    .addOption(jsonOption())
    .action(explain)

/** One rule with its examples, or all rules by family. */
async function explain(code: string | undefined, options: { json?: boolean }, command: Command): Promise<void> {
  if (code === undefined) {
    if (options.json) printJson({ format: 1, rules: CATALOGUE.map(ruleJson) })
    else list(new Page(command), CATALOGUE)
    return
  }
  const word = code.toLowerCase()
  const rule = ruleOf(word)
  const family = CATALOGUE.filter((each) => each.code.startsWith(`${word}/`))
  if (!rule && family.length > 0) {
    if (options.json) printJson({ format: 1, rules: family.map(ruleJson) })
    else list(new Page(command), family)
    return
  }
  if (!rule)
    throw new Trouble(
      `“${code}” is neither a rule nor a family of rules; ${nearestThen(word, codeWords(), 'known', 'All rules: bramblefront explain')}`,
    )
  if (options.json) {
    printJson({ format: 1, rules: [ruleJson(rule)] })
    return
  }
  const page = new Page(command)
  const { colour } = page
  page.line(
    `${colour.bold(rule.code)}  ${rule.severity}${rule.live ? '; queries servers: only with check --live' : ''}`,
  )
  page.text(rule.title, '  ')
  page.line()
  page.text(rule.why, '  ')
  page.line()
  page.text(rule.remedy, '                ', `  ${colour.dim('Fix:          ')}`)
  page.text(rule.source, '                ', `  ${colour.dim('Source:       ')}`)
  if (rule.silences) page.text(rule.silences.join(', '), '                ', `  ${colour.dim('Supersedes:   ')}`)
  for (const [words, examples] of [
    ['Wrong:', rule.bad],
    ['Right:', rule.good],
  ] as const) {
    page.line()
    page.line(`  ${colour.bold(words)}`)
    examples.forEach((example, i) => {
      if (i > 0) page.line()
      for (const line of exampleLines(example)) page.line(`    ${line}`)
    })
  }
  page.print()
}

/** The lines of an example, what cannot be seen made visible; with several zones, each behind the line that names it. */
export function exampleLines(example: Example): string[] {
  const cut = (line: string): string => (line.length > 96 ? `${line.slice(0, 60)}… (${line.length} characters)` : line)
  if (typeof example === 'string') return example.replaceAll('\r', '␍').split('\n').map(cut)
  const texts = example.whole ? exampleTexts(example) : example.zones
  const several = Object.keys(texts).length > 1
  return [
    ...assumed(example),
    ...Object.entries(texts).flatMap(([zone, text]) => [
      ...(several ? [zone.endsWith(' ') ? `; zone ${zone.trim()}, in another file` : `; zone ${zone}`] : []),
      ...text.trimEnd().split('\n').map(cut),
    ]),
  ]
}

/** What an example takes as known beyond its zones, as comments. */
function assumed({ traits, published, around }: Exclude<Example, string>): string[] {
  return [
    ...Object.entries(traits ?? {}).map(
      ([zone, said]) =>
        `; bramblefront.yaml: zone ${zone}, ${Object.entries(said)
          .map(([key, value]) => `${key}: ${value}`)
          .join(', ')}`,
    ),
    ...(around?.fronts ?? []).map(
      ({ label, ranges, names }) => `; bramblefront.yaml: front ${label}, ${[...ranges, ...names].join(', ')}`,
    ),
    ...(around?.follows ?? []).map(({ owner, target }) => `; bramblefront.yaml: ${owner} follows ${target}`),
    ...(around?.exceptions ?? []).map(
      ({ rule, at, reason }) => `; bramblefront.yaml: exception for ${rule}${at ? ` at ${at}` : ''} (${reason})`,
    ),
    ...(around?.now ? [`; checked on ${around.now.toISOString().slice(0, 10)}`] : []),
    ...Object.entries(published ?? {}).flatMap(([zone, text]) => [
      `; published before, of ${zone}:`,
      ...text
        .trimEnd()
        .split('\n')
        .map((line) => `;   ${line}`),
    ]),
  ]
}

function list(page: Page, listed: readonly Rule[]): void {
  const families = new Map<string, Rule[]>()
  for (const rule of listed) {
    const family = rule.code.split('/')[0]!
    families.set(family, [...(families.get(family) ?? []), rule])
  }
  for (const rules of families.values()) {
    table(
      page,
      rules.map((rule) => [rule.code, rule.severity, rule.title]),
      '',
      (cell, column) => (column === 0 ? page.colour.bold(cell) : cell),
    )
    page.line()
  }
  page.line('More about one of them: bramblefront explain CODE')
  page.print()
}

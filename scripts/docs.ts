// Writes docs/rules.md from the rules' own meta, docs/types.md from the type table, docs/bramblefront.schema.json and docs/recipe.schema.json from what these files are checked by, and the tables of Unicode. With --check, says whether it is current instead.
import { readFileSync, writeFileSync } from 'node:fs'
import { exampleLines } from '../src/cli/commands/explain.ts'
import { documentSchemas } from '../src/cli/documents/index.ts'
import { type TypeRow, typeRows } from '../src/core/records/types.ts'
import { CATALOGUE } from '../src/core/rules/catalogue.ts'
import type { Example, Rule } from '../src/core/rules/rule.ts'
import { configSchema } from '../src/workspace/config-schema.ts'
import { recipeSchema } from '../src/workspace/recipes.ts'
import { UNREAD } from '../test/servers/unread.ts'
import { unicodeData } from './unicode.ts'

const block = (examples: Example[]): string =>
  examples.map((example) => `\`\`\`\n${exampleLines(example).join('\n')}\n\`\`\``).join('\n\n')

function section(rule: Rule): string {
  const speaksFor = rule.silences
    ? `\nWhere it speaks, these are silent: ${rule.silences.map((code) => `\`${code}\``).join(', ')}.\n`
    : ''
  return `### ${rule.code}

**${rule.severity}**: ${rule.title}. (${rule.source})

${rule.why}

${rule.remedy}
${speaksFor}
Wrong:

${block(rule.bad)}

Right:

${block(rule.good)}
`
}

const families = [...new Set(CATALOGUE.map((rule) => rule.code.split('/')[0]))]
const text = `# Rules

What \`bramblefront check\` finds, generated from the rules themselves by \`npm run docs\`.
Examples are parts of the zone hollowmere.example; a sound SOA and NS set is understood in front of them.

An **error** is what a server, resolver, sender or receiver refuses, ignores or gets wrong by the standard; a **warning** is against a recommendation, or known to break in practice; **advice** is worth knowing.
A finding that speaks for another one takes over its severity where that is higher: it is the same fault.
Rules marked *live* ask servers, and speak with \`check --live\` alone.
Entries that cannot be read at all are findings of the family \`file/\`.

| rule | severity | finds |
|---|---|---|
${CATALOGUE.map((rule) => `| [${rule.code}](#${rule.code.replace('/', '')}) | ${rule.severity}${rule.live ? ' (live)' : ''} | ${rule.title} |`).join('\n')}

${families
  .map(
    (family) =>
      `## ${family}\n\n${CATALOGUE.filter((rule) => rule.code.startsWith(`${family}/`))
        .map(section)
        .join('\n')}`,
  )
  .join('\n')}`

function typeLine({ type, mnemonic, fields }: TypeRow): string {
  const unread = Object.entries(UNREAD).flatMap(([server, types]) => (types.includes(mnemonic) ? [server] : []))
  return `| ${mnemonic} | ${type} | ${fields.map((field) => field.label).join(', ')} | ${unread.length === 0 ? 'yes' : `not by ${unread.join(' and ')}, which ${unread.length === 1 ? 'does' : 'do'} not read its text`} |`
}

const types = `# Record types

Generated from the type table by \`npm run docs\`. Every type is read and written in presentation form and on the wire; any other type as \`TYPE123 \\# LENGTH HEXADECIMAL\` (RFC 3597), which is accepted for these, too.

*Proved* says that named, knotd and nsd, given the same texts, send the same octets by zone transfer (test/servers/types.test.ts), beside the standards' own vectors (test/core/records/vectors.ts).

| type | number | values, in order | proved |
|---|---|---|---|
${typeRows().map(typeLine).join('\n')}
`

const schemaText = (schema: object): string => `${JSON.stringify(schema, null, 2)}\n`

const FILES: Record<string, string> = {
  'docs/rules.md': text,
  'docs/types.md': types,
  'docs/bramblefront.schema.json': schemaText(configSchema()),
  'docs/recipe.schema.json': schemaText(recipeSchema()),
  ...Object.fromEntries(
    Object.entries(documentSchemas()).map(([name, each]) => [`docs/schemas/${name}.schema.json`, schemaText(each)]),
  ),
  'src/core/names/unicode-data.ts': await unicodeData(),
}
for (const [file, wanted] of Object.entries(FILES)) {
  if (!process.argv.includes('--check')) writeFileSync(file, wanted)
  else if (readFileSync(file, 'utf8') !== wanted) {
    console.error(`${file} is not current: npm run docs`)
    process.exitCode = 1
  }
}

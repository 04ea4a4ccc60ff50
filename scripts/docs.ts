// Writes docs/rules.md from the rules' own meta. With --check, says whether it is current instead.
import { readFileSync, writeFileSync } from 'node:fs'
import { exampleLines } from '../src/cli/commands/explain.ts'
import { CATALOGUE } from '../src/core/rules/catalogue.ts'
import type { Example, Rule } from '../src/core/rules/rule.ts'

const FILE = 'docs/rules.md'
const block = (examples: Example[]): string => examples.map((example) => `\`\`\`\n${exampleLines(example).join('\n')}\n\`\`\``).join('\n\n')

function section(rule: Rule): string {
  const speaksFor = rule.silences ? `\nWhere it speaks, these are silent: ${rule.silences.map((code) => `\`${code}\``).join(', ')}.\n` : ''
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
Entries that cannot be read at all are findings of the family \`file/\`.

| rule | severity | finds |
|---|---|---|
${CATALOGUE.map((rule) => `| [${rule.code}](#${rule.code.replace('/', '')}) | ${rule.severity} | ${rule.title} |`).join('\n')}

${families
  .map(
    (family) =>
      `## ${family}\n\n${CATALOGUE.filter((rule) => rule.code.startsWith(`${family}/`))
        .map(section)
        .join('\n')}`,
  )
  .join('\n')}`

if (process.argv.includes('--check')) {
  if (readFileSync(FILE, 'utf8') !== text) {
    console.error(`${FILE} is not what the rules say: npm run docs`)
    process.exit(1)
  }
} else writeFileSync(FILE, text)

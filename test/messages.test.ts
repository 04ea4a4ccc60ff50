/** Messages speak of what the person typed: nothing of the demo or the tests stands in them. */
import { readFileSync } from 'node:fs'
import { globSync } from 'tinyglobby'
import { expect, test } from 'vitest'

const NAMES = /hollowmere|lakepass|larkpost|quillwing|northlight|upland|ferry|lark\d|\bquill\b/i

/** Without comments, and without the examples of rules, which are zones that were typed. */
const messagesOf = (text: string): string =>
  text.replace(/^\s*(?:\/\*\*|\*|\/\/).*$/gm, '').replace(/^ {2}(?:bad|good): (?:\[[\s\S]*?^ {2}\]|.*\]),$/gm, '')

test.each(globSync(['src/**/*.ts', '!src/cli/commands/demo/**', '!src/core/rules/**']))('%s', (file) =>
  expect(messagesOf(readFileSync(file, 'utf8'))).not.toMatch(NAMES),
)

test.each(globSync('src/core/rules/*/*.ts'))('%s', (file) => {
  const said =
    messagesOf(readFileSync(file, 'utf8')).match(/\b(?:title|why|remedy|message|effect|fix):[\s\S]*?(?:\n|$)/g) ?? []
  for (const each of said) expect(each).not.toMatch(NAMES)
})

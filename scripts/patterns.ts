/**
 * Every pattern of the source, judged by a checker of regular expressions: none may take longer than its text is long. What was judged stands in
 * lint/patterns.txt, so that only new ones take time.
 *
 *     npm run patterns              judges those that are new, and writes them down
 *     npm run patterns -- --check   the same without writing: fails where the list is not that of the source
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { check } from 'recheck'
import { parseAst } from 'rolldown/parseAst'

const LIST = 'lint/patterns.txt'
/** A pattern is judged for so long, in milliseconds. */
const LONGEST = 20_000

interface Pattern {
  where: string
  source: string
  flags: string
}

/** The regular expressions that stand in the files of a folder. Those that are put together while the program runs are judged by the pace test alone. */
function patternsIn(folder: string): Pattern[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name)
    if (entry.isDirectory()) return patternsIn(path)
    if (!/\.tsx?$/.test(path)) return []
    const text = readFileSync(path, 'utf8')
    const found: Pattern[] = []
    const visit = (node: unknown): void => {
      if (Array.isArray(node)) for (const each of node) visit(each)
      else if (node !== null && typeof node === 'object') {
        const { regex, start } = node as { regex?: { pattern: string; flags: string }; start: number }
        if (regex)
          found.push({
            where: `${path}:${text.slice(0, start).split('\n').length}`,
            source: regex.pattern,
            flags: regex.flags,
          })
        else for (const each of Object.values(node)) visit(each)
      }
    }
    visit(parseAst(text, { lang: path.endsWith('x') ? 'tsx' : 'ts' }))
    return found
  })
}

const lineOf = ({ source, flags }: Pattern): string => `/${source}/${flags}`

/** Classes of all letters are far too large for the checker: a few stand for them. */
const judgeable = (source: string): string =>
  source.replaceAll(/\[[^\]]*\]|\\p\{L\}|\\p\{N\}/g, (part) =>
    part.startsWith('[')
      ? part.replaceAll('\\p{L}', 'a-z').replaceAll('\\p{N}', '0-9')
      : part === '\\p{L}'
        ? '[a-z]'
        : '[0-9]',
  )

/** Whether the text that the checker found takes longer than it is long: some are only long in coming to their bounds. */
function isSlow(pattern: RegExp, pumps: readonly { prefix: string; pump: string; bias: number }[]): boolean {
  const took = (times: number): number => {
    const text = `${pumps.map(({ prefix, pump }) => prefix + pump.repeat(times)).join('')}\u0000`
    const before = process.cpuUsage()
    text.match(pattern)
    return process.cpuUsage(before).user / 1000
  }
  for (let times = 250; times <= 64_000; times *= 4) {
    const [once, fourfold] = [took(times), took(times * 4)]
    if (fourfold > 100) return fourfold / Math.max(once, 1) > 8
  }
  return false
}

const patterns = new Map(patternsIn('src').map((pattern) => [lineOf(pattern), pattern]))
const judged = new Set(readFileSync(LIST, 'utf8').split('\n'))
let bad = 0
for (const [line, { where, source, flags }] of patterns) {
  if (judged.has(line)) continue
  const said = await check(judgeable(source), flags.replace(/[dv]/g, ''), { timeout: LONGEST })
  if (said.status === 'safe' || (said.status === 'vulnerable' && !isSlow(new RegExp(source, flags), said.attack.pumps)))
    continue
  bad++
  process.stdout.write(
    `${where}: ${line}: ${said.status}${said.status === 'vulnerable' ? `, ${said.complexity.summary}` : ''}\n`,
  )
  patterns.delete(line)
}
const list = `${[...patterns.keys()].sort().join('\n')}\n`
const isCurrent = list === readFileSync(LIST, 'utf8')
if (!process.argv.includes('--check')) writeFileSync(LIST, list)
else if (!isCurrent) process.stdout.write(`${LIST} is not that of the source: npm run patterns\n`)
process.stdout.write(`${patterns.size} patterns, ${bad} that may take too long\n`)
process.exitCode = bad > 0 || (process.argv.includes('--check') && !isCurrent) ? 1 : 0

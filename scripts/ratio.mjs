// How much of the code is tests, in lines that are not blank: a quarter to a third is wanted.
// Each rule carries examples of its fault and of sound cases, which one test runs: these lines are tests, wherever they stand.
import { execSync } from 'node:child_process'
import { readFileSync } from 'node:fs'

const filesOf = (patterns) =>
  execSync(`git ls-files ${patterns}`, { encoding: 'utf8' })
    .split('\n')
    .filter((file) => /\.(ts|mjs|js)$/.test(file))
const linesOf = (file) =>
  readFileSync(file, 'utf8')
    .split('\n')
    .filter((line) => line.trim() !== '')
const count = (patterns) => filesOf(patterns).reduce((sum, file) => sum + linesOf(file).length, 0)

/** Lines of `bad:` and `good:`, from the property's name to the line with its end. */
function examples(file) {
  let inside
  let found = 0
  for (const line of linesOf(file)) {
    const [, indent, rest] = /^( +)(?:bad|good): \[(.*)$/.exec(line) ?? []
    if (inside === undefined && indent !== undefined) {
      found++
      if (!rest.endsWith('],')) inside = indent
    } else if (inside !== undefined) {
      found++
      if (line.startsWith(`${inside}]`)) inside = undefined
    }
  }
  return found
}

const inRules = filesOf('src/core/rules/families').reduce((sum, file) => sum + examples(file), 0)
const code = count('src bench demo scripts') - inRules
const tests = count('test') + inRules
console.log(
  `${code} lines of code, ${tests} of tests (${inRules} of them the rules' own examples): tests are ${((100 * tests) / (code + tests)).toFixed(1)} % of both together`,
)

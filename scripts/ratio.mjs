// How much of the code is tests, in lines that are not blank: a quarter to a third is wanted.
import { execSync } from 'node:child_process'
import { readFileSync } from 'node:fs'

const lines = (patterns) =>
  execSync(`git ls-files ${patterns}`, { encoding: 'utf8' })
    .split('\n')
    .filter((file) => /\.(ts|mjs|js)$/.test(file))
    .reduce(
      (sum, file) =>
        sum +
        readFileSync(file, 'utf8')
          .split('\n')
          .filter((line) => line.trim() !== '').length,
      0,
    )
const code = lines('src bench demo scripts')
const tests = lines('test')
console.log(
  `${code} lines of code, ${tests} of tests: tests are ${((100 * tests) / (code + tests)).toFixed(1)} % of both together`,
)

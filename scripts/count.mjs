// The last lines of a run: its slowest tests, and how many tests passed and failed. A skipped test counts as a failure where nothing may be skipped.
import { readFileSync } from 'node:fs'

const { numPassedTests, numFailedTests, numPendingTests, testResults } = JSON.parse(
  readFileSync(process.argv[2], 'utf8'),
)
const broken = testResults.filter(
  (file) => file.status === 'failed' && file.assertionResults.every((each) => each.status !== 'failed'),
).length
const slowest = testResults
  .flatMap(({ assertionResults }) => assertionResults)
  .sort((a, b) => (b.duration ?? 0) - (a.duration ?? 0))
for (const { duration = 0, fullName } of slowest.slice(0, 10))
  console.log(`${(duration / 1000).toFixed(1).padStart(6)} s  ${fullName.slice(0, 100)}`)
const failed = numFailedTests + broken + (process.env.CI ? numPendingTests : 0)
if (process.env.CI && numPendingTests > 0)
  console.log(`${numPendingTests} tests were skipped, which must not happen here.`)
console.log(`${numPassedTests} passed, ${failed} failed`)
process.exitCode = failed > 0 || numPassedTests === 0 ? 1 : 0

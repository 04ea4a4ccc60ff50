// The last line of a run: how many tests passed and failed. A skipped test counts as a failure where nothing may be skipped.
import { readFileSync } from 'node:fs'

const { numPassedTests, numFailedTests, numPendingTests, testResults } = JSON.parse(
  readFileSync(process.argv[2], 'utf8'),
)
const broken = testResults.filter(
  (file) => file.status === 'failed' && file.assertionResults.every((each) => each.status !== 'failed'),
).length
const failed = numFailedTests + broken + (process.env.CI ? numPendingTests : 0)
if (process.env.CI && numPendingTests > 0)
  console.log(`${numPendingTests} tests were skipped, which must not happen here.`)
console.log(`${numPassedTests} passed, ${failed} failed`)
process.exitCode = failed > 0 || numPassedTests === 0 ? 1 : 0

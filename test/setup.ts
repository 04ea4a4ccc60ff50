/** Builds the program once, so that the tests drive what people run. */
import { execFileSync } from 'node:child_process'

export default function setup(): void {
  // Every process of Node's reads these authorities at its start, which takes as long as most of the program; no test asks anybody who needs them.
  delete process.env.NODE_EXTRA_CA_CERTS
  execFileSync(process.execPath, ['scripts/build.mjs'], { stdio: 'inherit' })
}

/** Builds the program once, so that the tests drive what people run. */
import { execFileSync } from 'node:child_process'

export default function setup(): void {
  execFileSync(process.execPath, ['scripts/build.mjs'], { stdio: 'inherit' })
}

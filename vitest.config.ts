import { defineConfig } from 'vitest/config'
import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** What takes longest alone, beside all the others. */
const LONG = /\/test\/(?:publishing|histories)\//

/** Long files first, so that none of them is left to run alone at the end. */
class LongFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const sorted = await super.sort(files)
    const isLong = ({ moduleId }: TestSpecification): boolean => LONG.test(moduleId)
    return [...sorted.filter(isLong), ...sorted.filter((each) => !isLong(each))]
  }
}

export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    // Most of the time goes into programs run and waited for.
    maxWorkers: '200%',
    sequence: { sequencer: LongFirst },
    globalSetup: ['test/setup.ts'],
    testTimeout: 180_000,
    hookTimeout: 180_000,
    reporters: process.env.BRAMBLEFRONT_SUMMARY
      ? ['default', ['json', { outputFile: process.env.BRAMBLEFRONT_SUMMARY }]]
      : ['default'],
  },
})

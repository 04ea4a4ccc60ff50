import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    // Most of the time goes into programs run and waited for.
    maxWorkers: '200%',
    globalSetup: ['test/setup.ts'],
    testTimeout: 180_000,
    hookTimeout: 180_000,
    reporters: process.env.BRAMBLEFRONT_SUMMARY
      ? ['default', ['json', { outputFile: process.env.BRAMBLEFRONT_SUMMARY }]]
      : ['default'],
  },
})

import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['test/**/*.test.ts'],
    globalSetup: ['test/setup.ts'],
    testTimeout: 60_000,
    hookTimeout: 60_000,
    reporters: process.env.BRAMBLEFRONT_SUMMARY ? ['default', ['json', { outputFile: process.env.BRAMBLEFRONT_SUMMARY }]] : ['default'],
  },
})

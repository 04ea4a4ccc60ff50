import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { FAULTS } from './list.ts'

// `npm run faults` plants them, and runs the tests against each.
test.each(FAULTS.map(({ file, what, find, put }) => [file, what, find, put]))(
  '%s: %s: can be planted',
  (file, _what, find, put) => {
    const text = readFileSync(join('src/core/confirm', file), 'utf8')
    expect(text.split(find).length - 1).toBe(1)
    expect(put).not.toBe(find)
  },
)

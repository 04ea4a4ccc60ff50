import fc from 'fast-check'
import { expect, test } from 'vitest'
import { namePattern } from '../../../src/core/names/pattern.ts'

test.each<[string, string, boolean]>([
  ['*.example', 'a.b.example.', true],
  ['*.example', 'example.', false],
  ['Hollow*', 'hollowmere.example.', true],
  ['a*b*c', 'axbxc.', true],
  ['a*b*c', 'axcxb.', false],
  ['ab*bc', 'abc.', false],
  ['*', '.', true],
  ['mail.example.', 'mail.example.', true],
  ['mail', 'mail.example.', false],
])('%s fits %s: %s', (pattern, name, fits) => expect(namePattern(pattern)(name)).toBe(fits))

test('the same as a regular expression with “.*” finds', () => {
  const text = fc.string({ unit: fc.constantFrom('a', 'b', '*'), maxLength: 10 })
  fc.assert(
    fc.property(text, fc.string({ unit: fc.constantFrom('a', 'b'), minLength: 1, maxLength: 12 }), (pattern, name) => {
      const expected = new RegExp(`^${pattern.replaceAll('*', '.*')}$`).test(name)
      expect(namePattern(pattern)(name)).toBe(expected)
    }),
  )
})

/** Entries cut into tokens: a plain line is cut on a shorter way, which must not be seen. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { scanEntry } from '../../../src/core/records/scan.ts'
import { TokenCursor } from '../../../src/core/records/tokens.ts'

function tokens(text: string): { texts: string[]; end: number; problem?: string } {
  const octets = octetsOf(text)
  const cursor = new TokenCursor(octets)
  const { end, problem } = scanEntry(octets, 0, cursor)
  const texts = Array.from({ length: cursor.count }, (_, i) =>
    cursor.quoted[i] ? `"${cursor.text(i)}"` : cursor.text(i),
  )
  return { texts, end, problem: problem?.kind }
}

describe('cutting an entry into tokens', () => {
  const plain = fc.stringMatching(/^[a-z0-9@._*=/-]{1,20}$/)
  const quoted = fc.stringMatching(/^[a-z0-9 ;()@\t]{0,20}$/).map((text) => `"${text}"`)
  const blank = fc.constantFrom(' ', '\t', '  ', ' \r')

  test('a plain line has the tokens that were written, and those it has with a comment behind it or in parentheses', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.oneof(plain, quoted), blank), { minLength: 1, maxLength: 90 }), (parts) => {
        const line = parts.map(([token, space]) => token + space).join('')
        const expected = parts.map(([token]) => token)
        expect(tokens(`${line}\n@ A`)).toEqual({ texts: expected, end: line.length + 1, problem: undefined })
        expect(tokens(`${line};\n@ A`)).toEqual({ texts: expected, end: line.length + 2, problem: undefined })
        expect(tokens(`(${line}\n)`)).toEqual({ texts: expected, end: line.length + 3, problem: undefined })
      }),
    )
  })

  test.each([
    ['without a newline at the end', 'www A 192.0.2.1', ['www', 'A', '192.0.2.1'], undefined],
    ['an escape', 'a\\;b A', ['a\\;b', 'A'], undefined],
    ['a quote right behind a token', 'www TXT a"b"c', ['www', 'TXT', 'a', '"b"', 'c'], undefined],
    ['an escaped quote in a text', 'www TXT "a\\"b" c', ['www', 'TXT', '"a\\"b"', 'c'], undefined],
    ['nothing', ' \t', [], undefined],
    ['a quote left open', 'www TXT "a', ['www', 'TXT'], 'bad-quote'],
    ['a parenthesis left open', 'www A (192.0.2.1', ['www', 'A', '192.0.2.1'], 'parenthesis'],
  ])('%s', (_what, line, texts, problem) => expect(tokens(line)).toMatchObject({ texts, problem }))
})

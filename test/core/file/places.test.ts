import fc from 'fast-check'
import { expect, test } from 'vitest'
import { LineIndex } from '../../../src/core/file/places.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'

/** Lines of all lengths, across the borders of what is remembered; octets next to that of a line's end, and letters of several octets, among them. */
const line = fc.oneof(
  fc.constantFrom('', 'www A 192.0.2.1', '\u000b\u0009', 'größe', '☃'),
  fc.integer({ min: 0, max: 5000 }).map((length) => '\u000b'.repeat(length)),
)

test('lines, columns and texts are what counting from the beginning gives', () => {
  fc.assert(
    fc.property(
      fc.array(line, { minLength: 1, maxLength: 40 }),
      fc.array(fc.nat(), { minLength: 1, maxLength: 10 }),
      fc.nat(3),
      (lines, picks, shift) => {
        const text = lines.join('\n')
        // Where in memory the octets lie makes no difference.
        const octets = new Uint8Array(octetsOf(text).length + shift).subarray(shift)
        octets.set(octetsOf(text))
        const index = new LineIndex(octets)
        for (const pick of picks) {
          const number = pick % lines.length
          const before = lines.slice(0, number).join('\n')
          const start = octetsOf(number === 0 ? '' : `${before}\n`).length
          const letters = [...lines[number]!]
          const column = letters.length === 0 ? 0 : pick % letters.length
          const at = start + octetsOf(letters.slice(0, column).join('')).length
          if (at > octets.length) continue
          expect(index.place(at)).toEqual({ line: number + 1, column: column + 1 })
          expect(index.lineText(at)).toBe(new TextDecoder().decode(octetsOf(lines[number]!).subarray(0, 2000)))
        }
      },
    ),
    { numRuns: 60 },
  )
})

test('a carriage return belongs to the line’s end', () => {
  const index = new LineIndex(octetsOf('one\r\ntwo\r\n'))
  expect([index.lineText(0), index.lineText(5), index.place(5)]).toEqual(['one', 'two', { line: 2, column: 1 }])
})

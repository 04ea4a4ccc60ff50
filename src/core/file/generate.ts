/** `$GENERATE`, which some servers read. */
import { latin1Of } from '../names/octets.ts'
import type { TokenCursor } from '../records/tokens.ts'
import { parseClass } from '../records/types.ts'

/** How many records a line may make. */
const MAX_GENERATED = 1_000_000

/** A line as it was read: the numbers, and what each of them is put into. */
export interface GenerateLine {
  from: number
  step: number
  count: number
  template: string
  /** The token that the template begins with. */
  ownerToken: number
}

/**
 * Reads RANGE OWNER [TTL] [CLASS] TYPE DATA, where `$` is the number, and `${OFFSET,WIDTH,BASE}` the number with that added, as wide, in that base. The data is
 * one value, in quotes where there are blanks in it. Where it is none, fails the cursor.
 */
export function generateLine(cursor: TokenCursor, octets: Uint8Array): GenerateLine | false {
  const rangeToken = cursor.take('the range')
  const ownerToken = rangeToken < 0 ? -1 : cursor.take('the owner')
  const nextToken = ownerToken < 0 ? -1 : cursor.take('the type')
  if (nextToken < 0) return false
  const range = /^(\d{1,9})-(\d{1,9})(?:\/(\d{1,9}))?$/.exec(cursor.word(rangeToken))
  const [from, to, step] = range ? [Number(range[1]), Number(range[2]), Number(range[3] ?? 1)] : [0, -1, 1]
  if (!range || to < from || step < 1)
    return cursor.fail('generate', rangeToken, 'not a range', 'FIRST-LAST, or FIRST-LAST/STEP, as in 1-254')
  const count = Math.floor((to - from) / step) + 1
  if (count > MAX_GENERATED)
    return cursor.fail('generate', rangeToken, `it would make ${count} records`, `at most ${MAX_GENERATED} a line`)
  cursor.noteQuoted(0, cursor.count - 1)
  let dataToken = nextToken
  while (
    dataToken < cursor.count &&
    (/^\d/.test(cursor.word(dataToken)) || parseClass(cursor.word(dataToken)) !== undefined)
  )
    dataToken++
  if (dataToken + 2 < cursor.count)
    return cursor.fail(
      'generate',
      dataToken + 2,
      'the data of $GENERATE is one value',
      'quotes around all of it, as in $GENERATE 1-2 host$ MX "10 mail$"',
    )
  const raw = (token: number): string => {
    const text = latin1Of(octets, cursor.starts[token]!, cursor.ends[token]!)
    return cursor.quoted[token] ? text.replaceAll('\\"', '"') : text
  }
  const words: string[] = []
  for (let token = ownerToken; token < cursor.count; token++) words.push(raw(token))
  return { from, step, count, template: words.join(' '), ownerToken }
}

/** The entries from one of a line's numbers up to another, as octets; undefined where a `${…}` is malformed. */
export function generatedText({ from, step, count, template }: GenerateLine, first: number, end: number) {
  const parts = partsOf(template)
  if (!parts) return undefined
  let text = ''
  for (let i = first; i < Math.min(count, end); i++) {
    for (const part of parts) text += typeof part === 'string' ? part : part(from + i * step)
    text += '\n'
  }
  const octets = new Uint8Array(text.length)
  for (let i = 0; i < octets.length; i++) octets[i] = text.charCodeAt(i)
  return octets
}

type Part = string | ((number: number) => string)

/** A template of `$GENERATE`: what stays, and what a number becomes; undefined where a `${…}` is malformed. `\\$` and `$$` stay a sign. */
function partsOf(template: string): Part[] | undefined {
  const parts: Part[] = []
  let at = 0
  for (const { 0: found, 1: inside, index } of template.matchAll(/\\\$|\$\$|\$\{([^{}]*)\}|\$/g)) {
    parts.push(template.slice(at, index))
    at = index + found.length
    if (found === '\\$' || found === '$$') parts.push('\\$')
    else if (inside === undefined) parts.push(String)
    else {
      const match = /^(-?\d{1,9})(?:,(\d{1,3})(?:,([doxXnN]))?)?$/.exec(inside)
      if (!match) return undefined
      const [offset, width, base] = [Number(match[1]), Number(match[2] ?? 0), match[3] ?? 'd']
      parts.push((number) => numberText(number + offset, width, base))
    }
  }
  return [...parts, template.slice(at)]
}

/** A number in base d, o, x or X with zeros in front; or, as n and N, its hexadecimal digits from the last one on, parted by dots, as names of addresses have them. */
function numberText(value: number, width: number, base: string): string {
  const digits = base === 'd' ? String(Math.abs(value)) : (value >>> 0).toString(base === 'o' ? 8 : 16)
  const text =
    base === 'n' || base === 'N'
      ? [...digits.padStart((width + 1) >> 1, '0')].reverse().join('.').padEnd(width, '.')
      : base === 'd' && value < 0
        ? `-${digits.padStart(width - 1, '0')}`
        : digits.padStart(width, '0')
  return base === 'X' || base === 'N' ? text.toUpperCase() : text
}

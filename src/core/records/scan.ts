/** Cuts one entry of a zone file into tokens (RFC 1035 §5.1): quotes, escapes, parentheses, comments. */
import type { Problem, TokenCursor } from './tokens.ts'

const PLAIN = 0
const SPACE = 1
const NEWLINE = 2
const COMMENT = 3
const QUOTE = 4
const OPEN = 5
const CLOSE = 6
const ESCAPE = 7

const CLASS = new Uint8Array(256)
for (const [signs, kind] of [
  [' \t\r', SPACE],
  ['\n', NEWLINE],
  [';', COMMENT],
  ['"', QUOTE],
  ['(', OPEN],
  [')', CLOSE],
  ['\\', ESCAPE],
] as const)
  for (const sign of signs) CLASS[sign.charCodeAt(0)] = kind

/** An entry of more octets than this is refused: the largest record data takes four octets of text an octet. */
const MAX_ENTRY = 1 << 20

export interface Scanned {
  /** Just behind the entry's newline. */
  end: number
  problem: Problem | undefined
}

const result: Scanned = { end: 0, problem: undefined }

function trouble(
  kind: Problem['kind'],
  start: number,
  end: number,
  value: string,
  message: string,
  wanted: string,
): void {
  result.problem ??= { kind, start, end, value, message, wanted }
}

/**
 * Scans the entry that begins at `start`, filling `cursor` from its first token on.
 * Returns the place behind it and the first problem; the object is reused by the next call. After an unclosed parenthesis or quote, the entry is taken to end with
 * the line on which that was opened, so that the rest can still be read.
 */
export function scanEntry(octets: Uint8Array, start: number, cursor: TokenCursor): Scanned {
  const length = octets.length
  result.problem = undefined
  cursor.begin()
  const plain = scanPlain(octets, start, cursor)
  if (plain >= 0) return finish(octets, plain)
  cursor.count = 0
  let opened = -1
  let i = start
  while (i < length) {
    const kind = CLASS[octets[i]!]
    if (kind === SPACE) i++
    else if (kind === PLAIN || kind === ESCAPE) {
      const from = i
      // Most tokens are plain signs only.
      while (i < length && CLASS[octets[i]!] === PLAIN) i++
      while (i < length) {
        const inside = CLASS[octets[i]!]
        if (inside === PLAIN) i++
        else if (inside === ESCAPE && i + 1 < length && octets[i + 1] !== 0x0a) i += 2
        else if (inside === ESCAPE) {
          i++
          break
        } else break
      }
      cursor.add(from, i, 0)
    } else if (kind === NEWLINE) {
      i++
      if (opened < 0) break
    } else if (kind === COMMENT) {
      const newline = octets.indexOf(0x0a, i)
      i = newline < 0 ? length : newline
    } else if (kind === QUOTE) {
      const from = ++i
      while (i < length && octets[i] !== 0x22 && octets[i] !== 0x0a)
        i += octets[i] === 0x5c && octets[i + 1] !== 0x0a ? 2 : 1
      if (i < length && octets[i] === 0x0a) {
        i = closingBehind(octets, i)
        cursor.hasLineEnd = true
      }
      if (i >= length || octets[i] !== 0x22) {
        i = Math.min(i, length)
        trouble(
          'bad-quote',
          from - 1,
          from,
          '"',
          'a quote opens here and is not closed on its line',
          'close it with " before the line ends; write a line break inside a text as \\010, which every server reads',
        )
        return finish(octets, opened < 0 ? i : lineEnd(octets, opened))
      }
      cursor.add(from, i, 1)
      cursor.hasQuotes = true
      i++
    } else if (kind === OPEN) {
      // A second one on a later line: the first was never closed. Giving up here keeps the cost linear.
      if (opened >= 0 && octets.indexOf(0x0a, opened) < i) break
      if (opened >= 0)
        trouble(
          'parenthesis',
          i,
          i + 1,
          '(',
          'a parenthesis opens inside another',
          'one pair of parentheses is enough: remove this one',
        )
      else opened = i
      i++
    } else {
      if (opened < 0)
        trouble(
          'parenthesis',
          i,
          i + 1,
          ')',
          'a parenthesis closes that was never opened',
          'remove it, or open one before it',
        )
      opened = -1
      i++
    }
    if (i - start > MAX_ENTRY) {
      trouble(
        'entry-too-long',
        opened < 0 ? start : opened,
        opened < 0 ? start : opened + 1,
        opened < 0 ? '' : '(',
        `an entry of more than ${MAX_ENTRY} octets`,
        'no record needs so many: is a parenthesis left open?',
      )
      return finish(octets, lineEnd(octets, opened < 0 ? i : opened))
    }
  }
  if (opened >= 0) {
    trouble(
      'parenthesis',
      opened,
      opened + 1,
      '(',
      'a parenthesis opens here and is never closed',
      'close it with ) at the end of the record',
    )
    return finish(octets, lineEnd(octets, opened))
  }
  return finish(octets, i)
}

/** Scans an entry that is one line of plain and quoted tokens, as most are. Returns the place behind it, or -1 where there is more to it than that. */
function scanPlain(octets: Uint8Array, start: number, cursor: TokenCursor): number {
  const { starts, ends, quoted } = cursor
  const { length } = octets
  let count = 0
  let quotes = false
  let i = start
  while (i < length) {
    let kind = CLASS[octets[i]!]!
    if (kind === SPACE) i++
    else if (kind === NEWLINE) {
      i++
      break
    } else if (count === starts.length) return -1
    else if (kind === PLAIN) {
      const from = i++
      while (i < length && (kind = CLASS[octets[i]!]!) === PLAIN) i++
      if (kind > NEWLINE) return -1
      starts[count] = from
      ends[count] = i
      quoted[count++] = 0
    } else if (kind === QUOTE) {
      const from = ++i
      while (i < length && octets[i] !== 0x22 && octets[i] !== 0x0a && octets[i] !== 0x5c) i++
      if (octets[i] !== 0x22) return -1
      starts[count] = from
      ends[count] = i++
      quoted[count++] = 1
      quotes = true
    } else return -1
  }
  if (i - start > MAX_ENTRY) return -1
  cursor.count = count
  cursor.hasQuotes = quotes
  return i
}

/** A string has at most 255 octets, each written with four signs at most. */
const MAX_STRING = 1020

/**
 * Where the quote closes that was opened before the newline at `newline`: a text can contain the ends of lines (RFC 1035 §5.1). It must do so soon, and with something behind
 * it that parts tokens: otherwise the quote was forgotten, and what is found is the beginning of another text. Then the newline's own place is returned.
 */
function closingBehind(octets: Uint8Array, newline: number): number {
  const end = Math.min(octets.length, newline + MAX_STRING)
  let i = newline
  while (i < end && octets[i] !== 0x22) i += octets[i] === 0x5c ? 2 : 1
  if (i >= end) return newline
  const behind = i + 1 < octets.length ? CLASS[octets[i + 1]!] : NEWLINE
  return behind === SPACE || behind === NEWLINE || behind === CLOSE || behind === COMMENT ? i : newline
}

function finish(octets: Uint8Array, end: number): Scanned {
  result.end = Math.min(end, octets.length)
  return result
}

function lineEnd(octets: Uint8Array, at: number): number {
  const newline = octets.indexOf(0x0a, at)
  return newline < 0 ? octets.length : newline + 1
}

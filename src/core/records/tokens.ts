/** One entry of a zone file, cut into tokens; and what can be wrong with it. */

import { readEscape } from '../names/name.ts'
import { latin1Of, OctetSink, textOf, wider } from '../names/octets.ts'
import type { NameId } from '../names/tree.ts'

/** What a reader found wrong. The kinds that a rule of the catalogue speaks of are claimed by that rule; the others are reported as `file/<kind>`. */
export type ProblemKind =
  | 'bad-address'
  | 'bad-directive'
  | 'bad-name'
  | 'bad-number'
  | 'bad-quote'
  | 'bad-string'
  | 'bad-ttl'
  | 'bad-value'
  | 'binary'
  | 'byte-order-mark'
  | 'carriage-return'
  | 'empty-label'
  | 'entry-too-long'
  | 'extra-value'
  | 'label-too-long'
  | 'line-in-text'
  | 'missing-value'
  | 'name-too-long'
  | 'no-newline'
  | 'no-owner'
  | 'no-ttl'
  | 'no-type'
  | 'out-of-zone'
  | 'parameter-name'
  | 'parenthesis'
  | 'parenthesis-first'
  | 'quoted'
  | 'relative-origin'
  | 'string-too-long'
  | 'touching'
  | 'unknown-type'
  | 'type-not-read'
  | 'unquoted'
  | 'include'
  | 'generate'

/** `start` and `end` are octets from the beginning of what was read; `value` is the text found there; `wanted` says what would be right. */
export interface Problem {
  kind: ProblemKind
  start: number
  end: number
  value: string
  message: string
  wanted: string
  /** The entry's owner and type, where they could be read. */
  owner?: NameId
  type?: number
  /** The entry was read all the same. */
  read?: true
  /** Of something that servers accept, each in its own way. */
  severity?: 'warning'
}

const SHOWN = 60

/**
 * The tokens of one entry and a place among them, from which the fields of a record's data are read.
 * `starts` and `ends` are octets in `octets`, without the quotes of a quoted token.
 */
export class TokenCursor {
  octets: Uint8Array
  starts = new Int32Array(64)
  ends = new Int32Array(64)
  quoted = new Uint8Array(64)
  count = 0
  /** Whether any of them is quoted. */
  hasQuotes = false
  /** Whether a line ends inside one of them. */
  hasLineEnd = false
  at = 0
  /** What completes relative names: wire octets. */
  origin: Uint8Array = new Uint8Array(1)
  /** Of the record data read last: was its target given relative to the origin, and with how many octets of labels? */
  targetRelative = false
  trouble: Problem | undefined
  /** What is wrong with tokens that are read all the same. */
  readonly notes: Problem[] = []

  constructor(octets: Uint8Array) {
    this.octets = octets
  }

  /** Makes ready for another entry: nothing that was found in one may be seen in the next. */
  begin(): void {
    this.count = 0
    this.at = 0
    this.trouble = undefined
    this.hasQuotes = false
    this.hasLineEnd = false
    this.targetRelative = false
    if (this.notes.length > 0) this.notes.length = 0
  }

  add(start: number, end: number, quoted: number): void {
    if (this.count === this.starts.length) {
      this.starts = wider(this.starts, this.count * 2)
      this.ends = wider(this.ends, this.count * 2)
      this.quoted = wider(this.quoted, this.count * 2)
    }
    this.starts[this.count] = start
    this.ends[this.count] = end
    this.quoted[this.count++] = quoted
  }

  /** A token as text, cut where it is too long to be shown. */
  text(token: number): string {
    const start = this.starts[token]!
    const end = this.ends[token]!
    const text = textOf(this.octets.subarray(start, Math.min(end, start + SHOWN)))
    return end - start > SHOWN ? text + '…' : text
  }

  /** Notes what is wrong with a token (or with there being no such token) and returns false, for `return cursor.fail(…)`. */
  fail(kind: ProblemKind, token: number, message: string, wanted: string): false {
    const last = this.count - 1
    const behind = last < 0 ? 0 : this.ends[last]!
    const start = token <= last ? this.starts[token]! : behind
    const end = token <= last ? this.ends[token]! : behind
    this.trouble = { kind, start, end, value: token <= last ? this.text(token) : '', message, wanted }
    return false
  }

  /** Notes what is wrong with a token, quotes included, that is read all the same. */
  note(kind: ProblemKind, token: number, message: string, wanted: string): void {
    const start = this.starts[token]! - this.quoted[token]!
    const end = this.ends[token]! + this.quoted[token]!
    this.notes.push({ kind, start, end, value: this.text(token), message, wanted, read: true })
  }

  /** Notes each quoted token from one up to another: quotes are for texts (RFC 1035 §5.1). */
  noteQuoted(from: number, to: number): void {
    for (let token = from; token < to; token++)
      if (this.quoted[token])
        this.note(
          'quoted',
          token,
          `“${this.text(token)}” is in quotes but is not a text`,
          `${this.text(token)}, without quotes`,
        )
  }

  /** Takes the next token's index; where there is none, notes that `what` is missing and returns -1. */
  take(what: string): number {
    if (this.at < this.count) return this.at++
    this.fail('missing-value', this.count, `${what} is missing`, `write ${what} at the end of the record`)
    return -1
  }

  /** A plain decimal number in a token, or -1. */
  number(token: number): number {
    const end = this.ends[token]!
    let value = 0
    let i = this.starts[token]!
    if (i === end) return -1
    // Zeros in front say nothing; servers read them, however many.
    while (i < end - 1 && this.octets[i] === 0x30) i++
    if (end - i > 10) return -1
    for (; i < end; i++) {
      const digit = this.octets[i]! - 0x30
      if (digit < 0 || digit > 9) return -1
      value = value * 10 + digit
    }
    return value
  }

  /** The octets that a token stands for, escapes resolved, or undefined (with `trouble` noted) where an escape is malformed. */
  unescaped(token: number): Uint8Array | undefined {
    const end = this.ends[token]!
    const out = new OctetSink(end - this.starts[token]! + 1)
    for (let i = this.starts[token]!; i < end; ) {
      if (this.octets[i] !== 0x5c) out.u8(this.octets[i++]!)
      else {
        const read = readEscape(this.octets, i, end)
        if (read < 0) {
          this.fail(
            'bad-string',
            token,
            'a backslash is followed by neither a character nor three digits up to 255',
            'write \\\\ for a backslash itself',
          )
          return undefined
        }
        out.u8(read & 0xff)
        i += read >> 8
      }
    }
    return out.taken()
  }

  /** One character an octet, for short words that are ASCII when they are right. */
  word(token: number): string {
    return latin1Of(this.octets, this.starts[token]!, Math.min(this.ends[token]!, this.starts[token]! + 64))
  }
}

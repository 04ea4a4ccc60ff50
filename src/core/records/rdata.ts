/** Record data of any type, through the rows of the type table: text and wire octets, canonical form, and their way in and out of messages. */
import { FOLD, OctetSink } from '../names/octets.ts'
import { scanEntry } from './scan.ts'
import { type Problem, TokenCursor } from './tokens.ts'
import { rowOf, type TypeRow, typeText } from './types.ts'

/** Record data on the wire, uncompressed. */
export type Rdata = Uint8Array

export const MAX_RDATA = 65_535

/**
 * Reads a record's data from the tokens that are left, into `out`. Returns false with `cursor.trouble` noted where it does not fit the type.
 * Any type may be written as `\# length hexadecimal` (RFC 3597 §5); a type without a row only so.
 */
export function readRdata(type: number, cursor: TokenCursor, out: OctetSink): boolean {
  const row = rowOf(type)
  if (isGeneric(cursor)) return readGeneric(row, cursor, out)
  if (!row)
    return cursor.fail(
      'type-not-read',
      cursor.at,
      `data of type ${typeText(type)} can be given in the generic form only`,
      `write it as \\# LENGTH HEXADECIMAL (RFC 3597 §5)`,
    )
  for (const field of row.fields) {
    const from = cursor.at
    if (!field.kind.read(cursor, out, field.phrase)) return false
    if (cursor.hasQuotes && !field.kind.isText) cursor.noteQuoted(from, cursor.at)
  }
  if (cursor.at < cursor.count)
    return cursor.fail(
      'extra-value',
      cursor.at,
      `${row.mnemonic} takes ${row.fields.length === 1 ? 'one value' : `${row.fields.length} values`}; this one is extra`,
      wantedOf(row),
    )
  return true
}

/** "preference, exchange": what a type's values are, in order. */
export const wantedOf = (row: TypeRow): string => row.fields.map((f) => f.label).join(', ')

function isGeneric(cursor: TokenCursor): boolean {
  const start = cursor.starts[cursor.at]!
  return (
    cursor.at < cursor.count &&
    cursor.ends[cursor.at]! - start === 2 &&
    cursor.octets[start] === 0x5c &&
    cursor.octets[start + 1] === 0x23 &&
    !cursor.quoted[cursor.at]
  )
}

function readGeneric(row: TypeRow | undefined, cursor: TokenCursor, out: OctetSink): boolean {
  cursor.at++
  const lengthToken = cursor.take('the length')
  if (lengthToken < 0) return false
  const length = cursor.number(lengthToken)
  if (length < 0 || length > MAX_RDATA)
    return cursor.fail(
      'bad-number',
      lengthToken,
      'the length must be a whole number',
      `a number from 0 to ${MAX_RDATA}`,
    )
  let hex = ''
  const first = cursor.at
  while (cursor.at < cursor.count)
    hex += cursor.word(cursor.at).length < 64 ? cursor.word(cursor.at++) : wholeWord(cursor, cursor.at++)
  if (!/^([0-9a-f]{2})*$/i.test(hex))
    return cursor.fail('bad-value', first, 'not hexadecimal octets', 'two digits of 0–9 and a–f for each octet')
  if (hex.length !== length * 2)
    return cursor.fail(
      'bad-value',
      lengthToken,
      `the length says ${length} octets, but ${hex.length / 2} follow`,
      `${hex.length / 2}`,
    )
  const from = out.length
  for (let i = 0; i < hex.length; i += 2) out.u8(Number.parseInt(hex.slice(i, i + 2), 16))
  if (row && !fits(row, out.octets, from, out.length))
    return cursor.fail('bad-value', first, `these octets are not valid ${row.mnemonic} data`, wantedOf(row))
  if (cursor.hasQuotes) cursor.noteQuoted(lengthToken, cursor.count)
  return true
}

const wholeWord = (cursor: TokenCursor, token: number): string => {
  let text = ''
  for (let i = cursor.starts[token]!; i < cursor.ends[token]!; i++) text += String.fromCharCode(cursor.octets[i]!)
  return text
}

function fits(row: TypeRow, wire: Uint8Array, start: number, limit: number): boolean {
  let at = start
  for (const field of row.fields) {
    at = field.kind.end(wire, at, limit)
    if (at < 0) return false
  }
  return at === limit
}

/** Where each field of record data begins and ends: `[start, end]`, or undefined where the octets do not fit the type. */
export function fieldPlaces(row: TypeRow, wire: Rdata): [number, number][] | undefined {
  const places: [number, number][] = []
  let at = 0
  for (const field of row.fields) {
    const end = field.kind.end(wire, at, wire.length)
    if (end < 0) return undefined
    places.push([at, end])
    at = end
  }
  return at === wire.length ? places : undefined
}

/** `\# 4 c0000207`: any record data in the generic form. */
export function genericText(wire: Rdata): string {
  let hex = ''
  for (const octet of wire) hex += octet.toString(16).padStart(2, '0')
  return `\\# ${wire.length}${hex === '' ? '' : ' ' + hex}`
}

/** A record's data as its values, one text a field; with `origin` (wire octets), names below it are relative. */
export function rdataFields(type: number, wire: Rdata, origin?: Uint8Array): string[] {
  const row = rowOf(type)
  const places = row && fieldPlaces(row, wire)
  if (!row || !places) return [genericText(wire)]
  return row.fields.map((field, i) => field.kind.text(wire, places[i]![0], places[i]![1], origin))
}

/** A record's data in presentation form. */
export function rdataText(type: number, wire: Rdata, origin?: Uint8Array): string {
  return rdataFields(type, wire, origin).join(' ').trimEnd()
}

/** A record's data from its text alone (one entry's worth; a `;` outside quotes begins a comment). `origin` completes relative names. */
export function parseRdata(
  type: number,
  text: string,
  origin: Uint8Array,
): { wire: Rdata; targetRelative: boolean } | Problem {
  const octets = new TextEncoder().encode(text)
  const cursor = new TokenCursor(octets)
  cursor.origin = origin
  const scanned = scanEntry(octets, 0, cursor)
  if (scanned.problem) return scanned.problem
  if (scanned.end < octets.length)
    return {
      kind: 'extra-value',
      start: scanned.end,
      end: octets.length,
      value: text.slice(0, 60),
      message: 'the value contains a line break',
      wanted: 'one value on one line',
    }
  const out = new OctetSink()
  if (!readRdata(type, cursor, out)) return cursor.trouble!
  const quoted = cursor.notes.find(({ kind }) => kind === 'quoted')
  if (quoted) return quoted
  return { wire: out.taken(), targetRelative: cursor.targetRelative }
}

/** Canonical form for comparing (RFC 4034 §6.2): letters of names in lower case, for the types where a server may change them. */
export function canonicalRdata(type: number, wire: Rdata): Rdata {
  const row = rowOf(type)
  if (!row?.folds) return wire
  const places = fieldPlaces(row, wire)
  if (!places) return wire
  const folded = wire.slice()
  row.fields.forEach((field, i) => {
    if (field.kind.isName) for (let at = places[i]![0]; at < places[i]![1]; at++) folded[at] = FOLD[folded[at]!]!
  })
  return folded
}

/** A text that is equal for equal record data, and only then: for keys of sets and maps. */
export function rdataKey(type: number, wire: Rdata): string {
  let key = ''
  for (const octet of canonicalRdata(type, wire)) key += String.fromCharCode(octet)
  return key
}

/** Whether two records' data are the same (RFC 2181 §5, RFC 4034 §6.2). */
export function sameRdata(type: number, a: Rdata, b: Rdata): boolean {
  if (a.length !== b.length) return false
  let folded = false
  for (let i = 0; i < a.length; i++) {
    if (a[i] === b[i]) continue
    if (FOLD[a[i]!] !== FOLD[b[i]!]) return false
    folded = true
  }
  return !folded || rdataKey(type, a) === rdataKey(type, b)
}

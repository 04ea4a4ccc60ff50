/**
 * Reads a zone file (RFC 1035 §5, RFC 2308 §4) into the model. Whatever is wrong is noted as a problem with its place, and the rest is still read.
 */

import type { Zones } from '../model/zones.ts'
import { textOf } from '../names/octets.ts'
import { NONE } from '../names/tree.ts'
import { scanEntry } from '../records/scan.ts'
import { parseType } from '../records/types.ts'
import { beginsWithMark, MARK } from './byte-order-mark.ts'
import { readDirective } from './directives.ts'
import { type Readers, Reading, type ReadingState, type ReadOptions } from './reading.ts'
import { readRecord } from './record-entry.ts'

const DOLLAR = 0x24

/** In so many octets of a file it is looked for what is not in one of its lines alone: a zero, which no text has; carriage returns. */
const BEGINNING = 1 << 16

/**
 * Reads the source's octets into `zones`; its problems go to the source.
 * A record without a TTL takes `$TTL`, else the last stated one, else the minimum of the SOA record (RFC 1035 §5.1, RFC 2308 §4).
 */
export function readZone(zones: Zones, sourceIndex: number, options: ReadOptions = {}): void {
  readWhole(new Reading(zones, sourceIndex, READERS, options))
}

/** Reads the source's octets from one entry's beginning up to another's, in a given state; returns the state behind them. */
export function readStretch(
  zones: Zones,
  sourceIndex: number,
  from: number,
  to: number,
  state: ReadingState,
  options: ReadOptions = {},
): ReadingState {
  const octets = zones.sources[sourceIndex]!.octets.subarray(0, to)
  const reading = new Reading(zones, sourceIndex, READERS, options, octets)
  reading.enter(state)
  readFrom(reading, from)
  return reading.state()
}

const READERS: Readers = { whole: readWhole, from: readFrom }

function readWhole(reading: Reading): void {
  reading.noteContext()
  noteCarriageReturn(reading)
  if (!refuseBinary(reading)) readFrom(reading, 0)
  reading.source.endRecord = reading.zones.count
}

function readFrom(reading: Reading, from: number): void {
  const { octets, cursor } = reading
  let at = from === 0 ? behindMark(reading) : from
  // Behind a parenthesis that is never closed, lines that begin with a blank may be what was meant to be in it.
  let isOpen = false
  while (at < octets.length) {
    const { end, problem } = scanEntry(octets, at, cursor)
    reading.entryStart = at
    if (octets[at] !== 0x20 && octets[at] !== 0x09) isOpen = false
    if (problem) {
      reading.problems.push(problem)
      isOpen = problem.kind === 'parenthesis'
      if (isOpen) noteBrokenType(reading, at, end)
    } else if (cursor.count > 0) {
      reading.type = NONE
      reading.inRecord = true
      if (readEntry(reading, at)) {
        if (!reading.inRecord && end === octets.length && octets[end - 1] !== 0x0a)
          cursor.note(
            'no-newline',
            0,
            'the last line is a directive without a newline at its end',
            'a newline at its end',
          )
        if (cursor.notes.length > 0) takeNotes(reading)
      } else if (!isOpen) {
        const trouble = cursor.trouble!
        if (reading.owner !== NONE && reading.inRecord) trouble.owner = reading.owner
        if (reading.type !== NONE && reading.inRecord) trouble.type = reading.type
        reading.problems.push(trouble)
      }
    }
    at = end
  }
}

/** The type of an entry that is never closed, by the words of its first line behind the owner: what it was meant to be is not missing besides. */
function noteBrokenType({ octets, source }: Reading, start: number, end: number): void {
  const newline = octets.indexOf(0x0a, start)
  const line = textOf(octets.subarray(start, Math.min(newline < 0 ? end : newline, start + 1024)))
  const [, ...words] = line.split(/[\s()]+/)
  const type = words.map(parseType).find((each) => each !== undefined)
  if (type !== undefined) source.brokenTypes.push(type)
}

function readEntry(reading: Reading, start: number): boolean {
  const { octets, cursor } = reading
  const blank = octets[start] === 0x20 || octets[start] === 0x09
  if (blank || octets[cursor.starts[0]!] !== DOLLAR || cursor.quoted[0]) return readRecord(reading, start, blank)
  reading.inRecord = false
  const read = readDirective(reading)
  reading.noteContext()
  return read
}

/** Where the first entry begins: behind a byte-order mark, which servers do not pass over. */
function behindMark(reading: Reading): number {
  if (!beginsWithMark(reading.octets)) return 0
  reading.problems.push({
    kind: 'byte-order-mark',
    start: 0,
    end: MARK,
    value: '',
    message: 'the file begins with a byte-order mark (the invisible octets EF BB BF)',
    wanted: 'nothing before the first entry',
    read: true,
  })
  return MARK
}

/** What was noted of an entry that was read becomes problems. */
function takeNotes(reading: Reading): void {
  for (const note of reading.cursor.notes) {
    if (reading.inRecord) note.owner = reading.owner
    if (reading.inRecord) note.type = reading.type
    reading.problems.push(note)
  }
}

function noteCarriageReturn(reading: Reading): void {
  const { octets } = reading
  const first = beginning(reading).indexOf(0x0d)
  if (first < 0 || (first + 1 < octets.length && octets[first + 1] !== 0x0a)) return
  reading.problems.push({
    kind: 'carriage-return',
    start: first,
    end: first + 1,
    value: '',
    message: 'lines end in a carriage return and a newline',
    wanted: 'lines that end in a newline only',
    read: true,
  })
}

function beginning(reading: Reading): Uint8Array {
  return reading.octets.length > BEGINNING ? reading.octets.subarray(0, BEGINNING) : reading.octets
}

function refuseBinary(reading: Reading): boolean {
  const zero = beginning(reading).indexOf(0)
  if (zero < 0) return false
  reading.problems.push({
    kind: 'binary',
    start: zero,
    end: zero + 1,
    value: '',
    message: 'this is not a zone file: it contains a zero octet',
    wanted: 'a text file of records (RFC 1035 §5)',
  })
  return true
}

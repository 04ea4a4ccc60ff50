/** DNS messages on the wire (RFC 1035 §4), with EDNS (RFC 6891) and truncation (RFC 2181 §9). */

import { MAX_NAME, type Name, nameToWire, sameFolded, wireNameLength, wireToName } from '../names/name.ts'
import { FOLD, OctetSink, sameOctets, textOf, u16At, u32At } from '../names/octets.ts'
import type { Rdata } from '../records/rdata.ts'
import { fieldPlaces } from '../records/rdata.ts'
import { CLASS_IN, rowOf, TYPE } from '../records/types.ts'

export interface Question {
  name: Name
  type: number
  class: number
}

export interface MessageRecord {
  owner: Name
  type: number
  class: number
  ttl: number
  data: Rdata
}

export interface Edns {
  /** Octets of the largest UDP answer that the sender takes. */
  size: number
  dnssecOk: boolean
  options: { code: number; data: Uint8Array }[]
}

export interface Message {
  id: number
  response: boolean
  opcode: number
  authoritative: boolean
  truncated: boolean
  recursionDesired: boolean
  recursionAvailable: boolean
  authenticData: boolean
  checkingDisabled: boolean
  /** With the upper bits that EDNS carries. */
  rcode: number
  questions: Question[]
  answers: MessageRecord[]
  authority: MessageRecord[]
  additional: MessageRecord[]
  edns?: Edns
}

/** The UDP size that is asked for and answered with: what fits into IPv6’s least packet of 1280 octets, below the 1400 that RFC 9715 §3.2 allows. */
export const UDP_SIZE = 1232

export const RCODE_TEXT: Record<number, string> = {
  0: 'NOERROR',
  1: 'FORMERR',
  2: 'SERVFAIL',
  3: 'NXDOMAIN',
  4: 'NOTIMP',
  5: 'REFUSED',
  6: 'YXDOMAIN',
  7: 'YXRRSET',
  8: 'NXRRSET',
  9: 'NOTAUTH',
  10: 'NOTZONE',
  16: 'BADVERS',
}
/** `NOERROR`, or `RCODE23` for one without a name. */
export const rcodeText = (rcode: number): string => RCODE_TEXT[rcode] ?? `RCODE${rcode}`

/** A message with everything empty and off. */
export function emptyMessage(id: number): Message {
  return {
    id,
    response: false,
    opcode: 0,
    authoritative: false,
    truncated: false,
    recursionDesired: false,
    recursionAvailable: false,
    authenticData: false,
    checkingDisabled: false,
    rcode: 0,
    questions: [],
    answers: [],
    authority: [],
    additional: [],
  }
}

/** How a question is asked, where not as a stub asks it of a resolver. */
export interface How {
  /** Whether the one asked shall ask others (RFC 1035 §4.1.1); default: yes. */
  recursion?: boolean
  /** Whether it shall answer with what it cannot validate, too (RFC 4035 §3.2.2). */
  checkingDisabled?: boolean
  /** Without EDNS. */
  plain?: boolean
}

/** The octets that an absolute name of plain characters takes on the wire; 0 for one that must be read with care. */
function plainWireLength(name: Name): number {
  const length = name.length
  if (length < 2 || length > 200 || name.charCodeAt(length - 1) !== 0x2e) return 0
  for (let i = 0; i < length; i++) {
    const code = name.charCodeAt(i)
    if (code === 0x5c || code > 0x7e) return 0
  }
  return length + 1
}

/** Writes a name that `plainWireLength` knows; its labels are those of a name. */
function putPlainName(octets: Uint8Array, at: number, name: Name): void {
  let count = at
  for (let i = 0; i < name.length; i++) {
    const code = name.charCodeAt(i)
    if (code !== 0x2e) octets[at + 1 + i] = code
    else {
      octets[count] = at + i - count
      count = at + 1 + i
    }
  }
}

/** The octets of a question of class IN: EDNS with 1232 octets, no client subnet, nothing else. `name` must be a name. */
export function queryOctets(id: number, name: Name, type: number, how: How = {}): Uint8Array {
  const plainly = plainWireLength(name)
  const wire = plainly === 0 ? (nameToWire(name) as Uint8Array) : undefined
  const end = 12 + (wire?.length ?? plainly)
  const octets = new Uint8Array(end + (how.plain ? 4 : 15))
  if (wire) octets.set(wire, 12)
  else putPlainName(octets, 12, name)
  octets[0] = id >> 8
  octets[1] = id
  octets[2] = how.recursion === false ? 0 : 1
  octets[3] = how.checkingDisabled ? 0x10 : 0
  octets[5] = 1
  octets[end] = type >> 8
  octets[end + 1] = type
  octets[end + 3] = CLASS_IN
  if (how.plain) return octets
  octets[11] = 1
  octets[end + 6] = TYPE.OPT
  octets[end + 7] = UDP_SIZE >> 8
  octets[end + 8] = UDP_SIZE & 0xff
  return octets
}

class Compressor {
  private readonly places = new Map<string, number>()
  readonly out: OctetSink
  constructor(out: OctetSink) {
    this.out = out
  }
  /** Forgets the places at or behind `end`, after what stood there was taken back. */
  forgetFrom(end: number): void {
    for (const [suffix, place] of this.places) if (place >= end) this.places.delete(suffix)
  }
  name(wire: Uint8Array, compress: boolean): void {
    let at = 0
    while (wire[at] !== 0) {
      const key = suffixKey(wire, at)
      const place = this.places.get(key)
      if (place !== undefined && compress) {
        this.out.u16(0xc000 | place)
        return
      }
      if (place === undefined && this.out.length < 0x4000) this.places.set(key, this.out.length)
      this.out.put(wire, at, at + 1 + wire[at]!)
      at += wire[at]! + 1
    }
    this.out.u8(0)
  }
}

function suffixKey(wire: Uint8Array, at: number): string {
  let key = ''
  for (let i = at; wire[i] !== 0; i += wire[i]! + 1)
    for (let k = i; k <= i + wire[i]!; k++) key += String.fromCharCode(k === i ? wire[k]! : FOLD[wire[k]!]!)
  return key
}

function putRecord(names: Compressor, record: MessageRecord): void {
  const { out } = names
  names.name(nameToWire(record.owner) as Uint8Array, true)
  out.u16(record.type)
  out.u16(record.class)
  out.u32(record.ttl)
  const lengthAt = out.length
  out.u16(0)
  const row = rowOf(record.type)
  const places = row?.compressible ? fieldPlaces(row, record.data) : undefined
  if (!row || !places) out.put(record.data)
  else
    row.fields.forEach((field, i) => {
      const [start, end] = places[i]!
      if (field.kind.isName) names.name(record.data.subarray(start, end), true)
      else out.put(record.data, start, end)
    })
  const length = out.length - lengthAt - 2
  out.octets[lengthAt] = length >> 8
  out.octets[lengthAt + 1] = length & 0xff
}

function flagsOf(message: Message, truncated: boolean): number {
  return (
    (message.response ? 0x8000 : 0) |
    (message.opcode << 11) |
    (message.authoritative ? 0x0400 : 0) |
    (truncated ? 0x0200 : 0) |
    (message.recursionDesired ? 0x0100 : 0) |
    (message.recursionAvailable ? 0x0080 : 0) |
    (message.authenticData ? 0x0020 : 0) |
    (message.checkingDisabled ? 0x0010 : 0) |
    (message.rcode & 0x0f)
  )
}

/**
 * The octets of a message. Where they would pass `limit`, whole record sets are left out from the end: additional ones silently, others with the truncation
 * flag set (RFC 2181 §9). The names in it must be names.
 */
export function encodeMessage(message: Message, limit = 65_535): Uint8Array {
  const out = new OctetSink(512)
  const names = new Compressor(out)
  const ednsOctets = message.edns
    ? 11 + message.edns.options.reduce((sum, option) => sum + 4 + option.data.length, 0)
    : 0
  out.u16(message.id)
  out.room(10)
  out.length = 12
  for (const question of message.questions) {
    names.name(nameToWire(question.name) as Uint8Array, true)
    out.u16(question.type)
    out.u16(question.class)
  }
  const counts = [0, 0, 0]
  let truncated = message.truncated
  const sections = [message.answers, message.authority, message.additional]
  for (const [section, records] of sections.entries()) {
    let setStart = out.length
    let countAtSetStart = 0
    for (const [i, record] of records.entries()) {
      const before = i > 0 ? records[i - 1] : undefined
      if (!before || before.type !== record.type || before.owner !== record.owner) {
        setStart = out.length
        countAtSetStart = counts[section]!
      }
      putRecord(names, record)
      counts[section]!++
      if (out.length + ednsOctets <= limit) continue
      out.length = setStart
      names.forgetFrom(setStart)
      counts[section] = countAtSetStart
      if (section < 2) truncated = true
      break
    }
    if (truncated) break
  }
  if (message.edns) {
    out.u8(0)
    out.u16(TYPE.OPT)
    out.u16(message.edns.size)
    out.u8(message.rcode >> 4)
    out.u8(0)
    out.u16(message.edns.dnssecOk ? 0x8000 : 0)
    out.u16(ednsOctets - 11)
    for (const option of message.edns.options) {
      out.u16(option.code)
      out.u16(option.data.length)
      out.put(option.data)
    }
    counts[2]!++
  }
  const octets = out.taken()
  const header = [flagsOf(message, truncated), message.questions.length, ...counts]
  header.forEach((value, i) => {
    octets[2 + 2 * i] = value >> 8
    octets[3 + 2 * i] = value & 0xff
  })
  return octets
}

/** What a message could not be read for: a text for people. */
export interface Garbled {
  garbled: string
}

class Malformed extends Error {}

/**
 * Reads a message; whatever its octets are, it returns either a message or what is wrong with it, in time and memory bound by its length. Nothing of it shares the memory of the octets.
 * `answers` is the question that it is known to answer (see `answersQuestion`): where it repeats that letter by letter, its name is not read once more.
 */
export function decodeMessage(octets: Uint8Array, answers?: { query: Uint8Array; name: Name }): Message | Garbled {
  try {
    return new Decoder(octets).message(answers)
  } catch (error) {
    if (error instanceof Malformed) return { garbled: error.message }
    throw error
  }
}

/** A stretch of octets with memory of its own, also where they are a Buffer's. */
function copied(octets: Uint8Array, from: number, to: number): Uint8Array {
  const copy = new Uint8Array(to - from)
  for (let i = from; i < to; i++) copy[i - from] = octets[i]!
  return copy
}

/** Where names, and data with names in it, are put together. */
const WORK = new OctetSink(MAX_NAME + 1)
const DATA = new OctetSink(512)

class Decoder {
  private at = 0
  /** The first question's name. */
  private firstName: Name | undefined
  private readonly octets: Uint8Array
  /** Steps that names may take by pointers in this whole message: a name has at most 127 labels, so honest messages stay far below. */
  private jumps = 20_000
  constructor(octets: Uint8Array) {
    this.octets = octets
  }

  message(answers?: { query: Uint8Array; name: Name }): Message {
    if (this.octets.length < 12) throw new Malformed('shorter than a header')
    const flags = u16At(this.octets, 2)
    this.at = 12
    const message: Message = {
      id: u16At(this.octets, 0),
      response: (flags & 0x8000) !== 0,
      opcode: (flags >> 11) & 0x0f,
      authoritative: (flags & 0x0400) !== 0,
      truncated: (flags & 0x0200) !== 0,
      recursionDesired: (flags & 0x0100) !== 0,
      recursionAvailable: (flags & 0x0080) !== 0,
      authenticData: (flags & 0x0020) !== 0,
      checkingDisabled: (flags & 0x0010) !== 0,
      rcode: flags & 0x0f,
      questions: [],
      answers: [],
      authority: [],
      additional: [],
    }
    for (let i = u16At(this.octets, 4); i > 0; i--) {
      const name = (answers && this.repeated(answers)) ?? this.name()
      this.firstName ??= name
      this.need(4)
      message.questions.push({ name, type: this.u16(), class: this.u16() })
    }
    this.section(message, message.answers, u16At(this.octets, 6))
    this.section(message, message.authority, u16At(this.octets, 8))
    this.section(message, message.additional, u16At(this.octets, 10))
    return message
  }

  private section(message: Message, section: MessageRecord[], count: number): void {
    for (let i = 0; i < count; i++) {
      // What a truncated message has left is still of use.
      if (this.at === this.octets.length && message.truncated) return
      const record = this.record(message)
      if (record) section.push(record)
    }
  }

  /** The name asked for, where the question is repeated octet by octet. */
  private repeated({ query, name }: { query: Uint8Array; name: Name }): Name | undefined {
    const { octets } = this
    const end = 12 + wireNameLength(query, 12)
    for (let at = 12; at < end; at++) if (octets[at] !== query[at]) return undefined
    this.at = end
    return name
  }

  private need(octets: number): void {
    if (this.at + octets > this.octets.length) throw new Malformed('it ends in the middle of a record')
  }
  private u16(): number {
    this.at += 2
    return u16At(this.octets, this.at - 2)
  }

  private record(message: Message): MessageRecord | undefined {
    const owner = this.name()
    this.need(10)
    const type = this.u16()
    const klass = this.u16()
    const ttl = u32At(this.octets, this.at)
    this.at += 4
    const length = this.u16()
    this.need(length)
    const end = this.at + length
    if (type === TYPE.OPT) {
      message.rcode |= (ttl >>> 24) << 4
      message.edns = { size: klass, dnssecOk: (ttl & 0x8000) !== 0, options: this.options(end) }
      this.at = end
      return undefined
    }
    const data = this.data(type, end)
    this.at = end
    // A TTL with its highest bit set counts as zero (RFC 2181 §8).
    return { owner, type, class: klass, ttl: ttl > 0x7fffffff ? 0 : ttl, data }
  }

  private options(end: number): Edns['options'] {
    const options: Edns['options'] = []
    while (this.at + 4 <= end) {
      const code = this.u16()
      const length = this.u16()
      if (this.at + length > end) throw new Malformed('an EDNS option is longer than its record')
      options.push({ code, data: copied(this.octets, this.at, this.at + length) })
      this.at += length
    }
    return options
  }

  /** Record data with its names written out in full. */
  private data(type: number, end: number): Rdata {
    // Nearly all of them are addresses.
    if (type === TYPE.A || type === TYPE.AAAA) {
      if (end - this.at !== (type === TYPE.A ? 4 : 16))
        throw new Malformed(`the data of ${type === TYPE.A ? 'an A' : 'an AAAA'} record does not fit its type`)
      return copied(this.octets, this.at, end)
    }
    const row = rowOf(type)
    if (!row?.fields.some((field) => field.kind.isName)) {
      const data = copied(this.octets, this.at, end)
      if (row && !fieldPlaces(row, data))
        throw new Malformed(`the data of a ${row.mnemonic} record does not fit its type`)
      return data
    }
    const out = DATA
    out.length = 0
    for (const field of row.fields) {
      if (field.kind.isName) this.nameWire(out)
      else {
        const next = field.kind.end(this.octets, this.at, end)
        if (next < 0) throw new Malformed(`the data of a ${row.mnemonic} record does not fit its type`)
        out.put(this.octets, this.at, next)
        this.at = next
      }
    }
    if (this.at !== end) throw new Malformed(`the data of a ${row.mnemonic} record has a wrong length`)
    return out.taken()
  }

  private name(): Name {
    // Most owners are the name that was asked for, or one above it, by a pointer into it: as plain text, it has its dots where the wire has lengths.
    const { firstName } = this
    if (firstName !== undefined && this.octets[this.at] === 0xc0) {
      const from = this.octets[this.at + 1]! - 12
      if (
        from >= 0 &&
        from < firstName.length - 1 &&
        (from === 0 || firstName.charCodeAt(from - 1) === 0x2e) &&
        !firstName.includes('\\')
      ) {
        this.at += 2
        return from === 0 ? firstName : firstName.slice(from)
      }
    }
    WORK.length = 0
    this.nameWire(WORK)
    return wireToName(WORK.octets)
  }

  /** Writes the name at `at` in full. A pointer must lead backwards, so that no name runs in a circle. */
  private nameWire(out: OctetSink): void {
    const from = out.length
    let at = this.at
    let lowest = at
    let jumped = false
    for (;;) {
      if (at >= this.octets.length) throw new Malformed('a name runs past the end')
      const length = this.octets[at]!
      if ((length & 0xc0) === 0xc0) {
        if (at + 1 >= this.octets.length) throw new Malformed('a name runs past the end')
        const to = u16At(this.octets, at) & 0x3fff
        if (to >= lowest || --this.jumps < 0) throw new Malformed('a name’s pointer does not lead backwards')
        if (!jumped) this.at = at + 2
        jumped = true
        at = lowest = to
        continue
      }
      if (length > 63) throw new Malformed('a label of an unknown kind')
      if (at + 1 + length > this.octets.length) throw new Malformed('a name runs past the end')
      out.put(this.octets, at, at + 1 + length)
      if (out.length - from > MAX_NAME) throw new Malformed('a name has over 255 octets')
      at += 1 + length
      if (length === 0) break
    }
    if (!jumped) this.at = at
  }
}

/**
 * Whether octets are a response to a question (made by `queryOctets`): id, opcode, and the question repeated, letters’ case set aside.
 * A refusal to read the question need not repeat it.
 */
export function answersQuestion(response: Uint8Array, query: Uint8Array): boolean {
  if (response.length < 12 || response[0] !== query[0] || response[1] !== query[1]) return false
  if ((response[2]! & 0x80) === 0 || (response[2]! & 0x78) !== 0) return false
  const questions = u16At(response, 4)
  if (questions === 0) return (response[3]! & 0x0f) !== 0
  // The root's zero, type and class end the question.
  let end = 12
  while (query[end] !== 0) end += query[end]! + 1
  end += 5
  return (
    questions === 1 &&
    response.length >= end &&
    sameFolded(response, 12, query, 12, end - 16) &&
    sameOctets(response.subarray(end - 4, end), query.subarray(end - 4, end))
  )
}

/** The extended errors of an answer (RFC 8914): code and text. */
export function extendedErrors(message: Message): { code: number; text: string }[] {
  return (message.edns?.options ?? [])
    .filter(({ code, data }) => code === 15 && data.length >= 2)
    .map(({ data }) => ({ code: u16At(data, 0), text: textOf(data.subarray(2)).replace(/\0$/, '') }))
}

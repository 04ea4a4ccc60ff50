/** DNS messages to the wire (RFC 1035 §4), with EDNS (RFC 6891) and truncation (RFC 2181 §9). */

import { type Name, nameToWire } from '../names/name.ts'
import { FOLD, OctetSink } from '../names/octets.ts'
import { fieldPlaces } from '../records/rdata.ts'
import { CLASS_IN, rowOf, TYPE } from '../records/types.ts'
import { type Message, type MessageRecord, UDP_SIZE } from './message.ts'
/** How a question is asked, where not as a stub asks it of a resolver. */
export interface How {
  /** Whether the one asked shall ask others (RFC 1035 §4.1.1); default: yes. */
  recursion?: boolean
  /** Whether it shall answer with what it cannot validate, too (RFC 4035 §3.2.2). */
  checkingDisabled?: boolean
  /** Without EDNS. */
  plain?: boolean
  /** Whether signatures shall come along (RFC 3225 §3). */
  dnssecOk?: boolean
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
  if (how.dnssecOk) octets[end + 11] = 0x80
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
  const places = row?.compressible && record.data.length > 0 ? fieldPlaces(row, record.data) : undefined
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

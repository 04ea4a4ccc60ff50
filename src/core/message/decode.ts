/** DNS messages from the wire, whatever their octets are (RFC 1035 §4, RFC 6891). */

import { MAX_NAME, type Name, wireNameLength, wireToName } from '../names/name.ts'
import { OctetSink, u16At, u32At } from '../names/octets.ts'
import type { Rdata } from '../records/rdata.ts'
import { fieldPlaces } from '../records/rdata.ts'
import { CLASS_ANY, CLASS_NONE, rowOf, TYPE } from '../records/types.ts'
import type { Edns, Message, MessageRecord } from './message.ts'
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
    // Where an update or a prerequisite speaks of a whole set, there is no data (RFC 2136 §2.4, §2.5).
    const data = length === 0 && (klass === CLASS_NONE || klass === CLASS_ANY) ? new Uint8Array() : this.data(type, end)
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

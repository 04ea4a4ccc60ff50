/** Fetches a whole zone from a server (AXFR, RFC 5936) over TCP, or TLS (RFC 9103), signed with a key where there is one (RFC 8945). */
import { randomInt } from 'node:crypto'
import type { Socket } from 'node:net'
import type { Clock } from '../core/clock.ts'
import type { Vantage } from '../core/confirm/observation.ts'
import { decodeMessage } from '../core/message/decode.ts'
import { encodeMessage } from '../core/message/encode.ts'
import type { Key } from '../core/message/key.ts'
import { emptyMessage, type MessageRecord, rcodeText } from '../core/message/message.ts'
import { SignedResponse, signed } from '../core/message/tsig.ts'
import { bare, foldName, isAtOrBelow, type Name } from '../core/names/name.ts'
import { CLASS_IN, TYPE } from '../core/records/types.ts'
import { soa } from '../core/records/views.ts'
import { openStream, readyEvent } from './connect.ts'
import { framed, systemText } from './ways/way.ts'

const AXFR = 252
/** A zone of more octets than this is none that anybody hands over; an endless one would fill the disk. */
const MOST = 2 ** 30

/** Octets: a transfer that brings less, on average, stands still. */
const LEAST_PER_SECOND = 4096

export interface Fetching {
  clock: Clock
  /** Milliseconds: nothing may be waited for any longer. In each such time as much must come as the slowest line brings. */
  limitMs: number
  /** Milliseconds for all of it, however much comes. Default: the same. */
  wholeMs?: number
  /** Signs the query; then every message must be covered by a signature. */
  key?: Key
  /** Takes records as they come, the closing SOA record left out. They count only once all is well. */
  take(records: readonly MessageRecord[]): void
}

export interface Fetched {
  /** Of the SOA record that came first and last. */
  serial: number
  records: number
}

/** Why a zone could not be fetched, for people. */
export interface Failed {
  failed: string
  /** Nobody answered at all. */
  unreached?: boolean
  /** And that was waited for: asking again over the same line is in vain. */
  silent?: boolean
  /** What the server answered. */
  rcode?: string
}

/** Fetches a zone, message by message; ends well only with a closing SOA record of the same serial, and within the time. */
export function fetchZone(vantage: Vantage, zone: Name, fetching: Fetching): Promise<Fetched | Failed> {
  return new Promise((resolve) => {
    let socket: Socket
    const incoming = new Incoming(zone, fetching)
    const done = (result: Fetched | Failed): void => {
      stopWaiting()
      socket?.destroy()
      resolve(result)
    }
    const { limitMs, wholeMs = limitMs } = fetching
    let before = 0
    let waited = limitMs
    const look = (): void => {
      const isMoving = incoming.octets - before >= (LEAST_PER_SECOND * limitMs) / 1000
      before = incoming.octets
      if (isMoving && waited < wholeMs) {
        const next = Math.min(limitMs, wholeMs - waited)
        waited += next
        stopWaiting = fetching.clock.after(next, look)
      } else if (incoming.begun)
        done({ failed: `it was not complete after ${waited / 1000} s (${incoming.records} records came)` })
      else done({ failed: `nothing came within ${limitMs / 1000} s`, unreached: true, silent: true })
    }
    let stopWaiting = fetching.clock.after(fetching.limitMs, look)
    openStream(vantage).then(
      (opened) => {
        socket = opened
        socket.on('error', (error) => done({ failed: systemText(error), unreached: !incoming.begun }))
        socket.on('close', () =>
          done({
            failed: incoming.begun
              ? `the connection was closed before the end of the transfer (${incoming.records} records came)`
              : 'the connection was closed without an answer',
            unreached: !incoming.begun,
          }),
        )
        socket.once(readyEvent(vantage), () => socket.write(framed(incoming.query)))
        socket.on('data', (chunk: Buffer) => {
          const result = incoming.data(chunk)
          if (result) done(result)
        })
      },
      (error) => done({ failed: systemText(error), unreached: true }),
    )
  })
}

/** What comes in answer to one query. */
class Incoming {
  readonly query: Uint8Array
  /** Records so far. */
  records = 0
  /** Whether anything came at all. */
  begun = false
  private readonly zone: Name
  private readonly fetching: Fetching
  private readonly id = randomInt(65_536)
  private readonly response: SignedResponse | undefined
  private serial: number | undefined
  octets = 0
  private received: Buffer = Buffer.alloc(0)

  constructor(zone: Name, fetching: Fetching) {
    this.zone = foldName(zone)
    this.fetching = fetching
    const { key, clock } = fetching
    const plain = encodeMessage({
      ...emptyMessage(this.id),
      questions: [{ name: zone, type: AXFR, class: CLASS_IN }],
    })
    const made = key && signed(plain, key, Math.floor(clock.now()))
    this.query = made?.octets ?? plain
    if (key) this.response = new SignedResponse(key, made!.mac)
  }

  /** Takes what came over the line; returns what it all comes to, once that is known. */
  data(chunk: Buffer): Fetched | Failed | undefined {
    this.begun = true
    this.octets += chunk.length
    if (this.octets > MOST) return { failed: `it goes on and on: more than ${MOST} octets came` }
    this.received = this.received.length === 0 ? chunk : Buffer.concat([this.received, chunk])
    let at = 0
    let result: Fetched | Failed | undefined
    while (!result && this.received.length - at >= 2) {
      const end = at + 2 + this.received.readUInt16BE(at)
      if (this.received.length < end) break
      result = this.message(this.received.subarray(at + 2, end))
      at = end
    }
    this.received = this.received.subarray(at)
    return result
  }

  private message(octets: Uint8Array): Fetched | Failed | undefined {
    const message = decodeMessage(octets)
    if ('garbled' in message) return { failed: `the reply cannot be decoded: ${message.garbled}` }
    if (message.id !== this.id || !message.response) return { failed: 'the reply does not answer this query' }
    const unsigned = this.response?.take(octets, this.fetching.clock.now())
    // A refusal need not be signed; what else it says is not believed.
    if (unsigned && (unsigned.error !== 'unsigned' || message.rcode === 0)) return { failed: unsigned.says }
    if (message.rcode !== 0) {
      const rcode = rcodeText(message.rcode)
      return { failed: `it answered ${rcode}${WHY[message.rcode] ?? ''}`, rcode }
    }
    if (message.answers.length === 0) return { failed: 'the answer was empty' }
    return this.take(message.answers)
  }

  private take(answers: readonly MessageRecord[]): Fetched | Failed | undefined {
    const { zone } = this
    for (const [i, record] of answers.entries()) {
      const isSoa = record.type === TYPE.SOA && foldName(record.owner) === zone
      if (this.serial === undefined) {
        if (!isSoa) return { failed: 'the transfer does not begin with the zone’s SOA record' }
        this.serial = soa(record.data).serial
      } else if (isSoa) {
        const { serial } = soa(record.data)
        if (i < answers.length - 1) return { failed: 'records follow the closing SOA record' }
        if (serial !== this.serial)
          return {
            failed: `the closing SOA record has serial ${serial}, the first one ${this.serial}: the zone changed on the way`,
          }
        if (this.response && !this.response.whole)
          return { failed: 'the last message is not signed, so nothing proves that it is the end' }
        this.fetching.take(answers.slice(0, i))
        return { serial, records: this.records }
      } else if (record.class !== CLASS_IN || !isAtOrBelow(record.owner, zone))
        return { failed: `it sent a record of ${bare(record.owner)}, which is not in the zone` }
      this.records++
    }
    this.fetching.take(answers)
    return undefined
  }
}

const WHY: Record<number, string> = {
  5: ': it does not allow a transfer to this address, or only with a key',
  9: ': it does not have this zone, or does not accept the signature',
}

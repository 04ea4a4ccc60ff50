/** Fetches a whole zone from a server (AXFR, RFC 5936) over TCP. */
import { randomInt } from 'node:crypto'
import { connect } from 'node:net'
import type { Vantage } from '../core/confirm/observation.ts'
import { decodeMessage } from '../core/message/decode.ts'
import { encodeMessage } from '../core/message/encode.ts'
import { emptyMessage, type MessageRecord, rcodeText } from '../core/message/message.ts'
import { foldName, type Name } from '../core/names/name.ts'
import { CLASS_IN, TYPE } from '../core/records/types.ts'
import { framed, systemText } from './ways/way.ts'

const AXFR = 252

/** The zone's records in the order in which they came, the closing SOA record left out; or why there are none. `limitMs` is how long to wait between two messages. */
export function transferZone(
  vantage: Vantage,
  zone: Name,
  limitMs = 10_000,
): Promise<{ records: MessageRecord[] } | { failed: string }> {
  return new Promise((resolve) => {
    const query = { ...emptyMessage(randomInt(65_536)), questions: [{ name: zone, type: AXFR, class: CLASS_IN }] }
    const socket = connect({ host: vantage.address, port: vantage.port, noDelay: true })
    const records: MessageRecord[] = []
    let received: Buffer = Buffer.alloc(0)
    const done = (result: { records: MessageRecord[] } | { failed: string }): void => {
      socket.destroy()
      resolve(result)
    }
    const take = (octets: Uint8Array) => {
      const message = decodeMessage(octets)
      if ('garbled' in message) return done({ failed: `the reply cannot be decoded: ${message.garbled}` })
      if (message.id !== query.id || !message.response) return done({ failed: 'the reply does not answer this query' })
      if (message.rcode !== 0) return done({ failed: `it answered ${rcodeText(message.rcode)}` })
      for (const record of message.answers) {
        const isSoa = record.type === TYPE.SOA && foldName(record.owner) === foldName(zone)
        if (records.length === 0 && !isSoa)
          return done({ failed: 'the transfer does not begin with the zone’s SOA record' })
        if (records.length > 0 && isSoa) return done({ records })
        records.push(record)
      }
      if (message.answers.length === 0) done({ failed: 'the answer was empty' })
    }
    socket.setTimeout(limitMs, () => done({ failed: 'timed out' }))
    socket.on('error', (error) => done({ failed: systemText(error) }))
    socket.on('close', () => done({ failed: 'the connection was closed before the end of the transfer' }))
    socket.on('connect', () => socket.write(framed(encodeMessage(query))))
    socket.on('data', (chunk: Buffer) => {
      received = received.length === 0 ? chunk : Buffer.concat([received, chunk])
      while (received.length >= 2 && received.length >= 2 + received.readUInt16BE(0) && !socket.destroyed) {
        const end = 2 + received.readUInt16BE(0)
        take(received.subarray(2, end))
        received = received.subarray(end)
      }
    })
  })
}

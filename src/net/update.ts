/** Sends messages of dynamic update (RFC 2136) over TCP or TLS, signed with a key where there is one (RFC 8945). */
import { randomInt } from 'node:crypto'
import type { Socket } from 'node:net'
import type { Clock } from '../core/clock.ts'
import type { Vantage } from '../core/confirm/observation.ts'
import { decodeMessage } from '../core/message/decode.ts'
import type { Key } from '../core/message/key.ts'
import { type Message, rcodeText } from '../core/message/message.ts'
import { type SignatureTrouble, SignedResponse, signed } from '../core/message/tsig.ts'
import { updateOctets } from '../core/publish/messages.ts'
import { openStream, readyEvent } from './connect.ts'
import { framed, systemText } from './ways/way.ts'

export interface Updating {
  clock: Clock
  /** Milliseconds for the answer. */
  limitMs: number
  key?: Key
}

export type Updated =
  /** It answered; `NOERROR` is all of it done, every other code none of it. */
  | { rcode: string }
  /** It did not take the signature. */
  | { trouble: SignatureTrouble }
  /** Nobody knows whether it was done; `unreached`: nothing was sent. */
  | { lost: string; unreached: boolean }

/** Sends one message and waits for its answer. A reply that is not signed is believed when it refuses, and never when it agrees. */
export function sendUpdate(vantage: Vantage, message: Message, { clock, limitMs, key }: Updating): Promise<Updated> {
  const id = randomInt(65_536)
  const plain = updateOctets(message, id)
  const made = key && signed(plain, key, Math.floor(clock.now()))
  const response = key && new SignedResponse(key, made!.mac)
  return new Promise((resolve) => {
    let socket: Socket | undefined
    let isSent = false
    let received: Buffer = Buffer.alloc(0)
    const done = (result: Updated): void => {
      stopWaiting()
      socket?.destroy()
      resolve(result)
    }
    const lost = (why: string): void => done({ lost: why, unreached: !isSent })
    const stopWaiting = clock.after(limitMs, () => lost(`no answer came within ${limitMs / 1000} s`))
    openStream(vantage).then(
      (opened) => {
        socket = opened
        socket.on('error', (error) => lost(systemText(error)))
        socket.on('close', () => lost('the connection was closed without an answer'))
        socket.once(readyEvent(vantage), () => {
          isSent = true
          socket!.write(framed(made?.octets ?? plain))
        })
        socket.on('data', (chunk: Buffer) => {
          received = received.length === 0 ? chunk : Buffer.concat([received, chunk])
          if (received.length < 2 || received.length < 2 + received.readUInt16BE(0)) return
          done(answerIn(received.subarray(2, 2 + received.readUInt16BE(0)), id, response, clock.now()))
        })
      },
      (error) => lost(systemText(error)),
    )
  })
}

function answerIn(octets: Uint8Array, id: number, response: SignedResponse | undefined, now: number): Updated {
  const message = decodeMessage(octets)
  if ('garbled' in message) return { lost: `the reply cannot be decoded: ${message.garbled}`, unreached: false }
  if (message.id !== id || !message.response)
    return { lost: 'the reply does not answer this message', unreached: false }
  const trouble = response?.take(octets, now)
  if (trouble && trouble.error !== 'unsigned') return { trouble }
  if (trouble && message.rcode === 0)
    return { lost: 'the reply says that all is done, and is not signed: it may be anybody’s', unreached: false }
  return { rcode: rcodeText(message.rcode) }
}

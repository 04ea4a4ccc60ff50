/** Answering on sockets: UDP and TCP on one port, by a function that can be changed while it runs. What is too long for UDP is cut short there (RFC 2181 §9). */
import { createSocket } from 'node:dgram'
import { createServer, type Socket } from 'node:net'
import { decodeMessage, type Garbled } from '../core/message/decode.ts'
import { encodeMessage } from '../core/message/encode.ts'
import type { Message } from '../core/message/message.ts'
import type { Zones } from '../core/model/zones.ts'
import { framed } from '../net/ways/way.ts'
import { respond, udpLimit } from './respond.ts'
import { asksTransfer, transferOf } from './transfer.ts'

type Payload = Message | Uint8Array
type Replies = Payload | readonly Payload[] | undefined
/** Answers a message, with one or several, or with octets that need be none; nothing says nothing at all. */
export type Responder = (query: Message | Garbled, id: number, udp: boolean) => Replies | Promise<Replies>

interface ServeOptions {
  address?: string
  port?: number
  /** With false it is silent there, as behind a filter. */
  udp?: boolean
  /** It closes each connection once it has answered over it. */
  closes?: boolean
  latencyMs?: () => number
}

export interface Served {
  address: string
  port: number
  /** How many questions came, by UDP and by TCP. */
  asked: { udp: number; tcp: number }
  close(): Promise<void>
}

/** Serves on an address (default: loopback); port 0 takes a free one. */
export async function serve(responder: Responder, options: ServeOptions = {}): Promise<Served> {
  const octetsOf = (replies: Replies, limit?: number): Uint8Array[] =>
    (replies === undefined ? [] : Array.isArray(replies) ? (replies as readonly Payload[]) : [replies as Payload]).map(
      (each) => (each instanceof Uint8Array ? each : encodeMessage(each, limit)),
    )
  const later = (work: () => void): void => {
    const latency = options.latencyMs?.() ?? 0
    if (latency > 0) setTimeout(work, latency)
    else work()
  }
  const address = options.address ?? '127.0.0.1'
  const asked = { udp: 0, tcp: 0 }
  let closed = false
  const connections = new Set<Socket>()
  const tcp = createServer((socket) => {
    connections.add(socket)
    socket.on('close', () => connections.delete(socket))
    socket.on('error', () => socket.destroy())
    let received: Buffer = Buffer.alloc(0)
    socket.on('data', (chunk: Buffer) => {
      received = Buffer.concat([received, chunk])
      while (received.length >= 2 && received.length >= 2 + received.readUInt16BE(0)) {
        const end = 2 + received.readUInt16BE(0)
        const query = decodeMessage(received.subarray(2, end))
        asked.tcp++
        const said = responder(query, end >= 4 ? received.readUInt16BE(2) : 0, false)
        received = received.subarray(end)
        whenSaid(said, (replies) =>
          later(() => {
            for (const octets of octetsOf(replies)) if (socket.writable) socket.write(framed(octets))
            if (options.closes) socket.end()
          }),
        )
      }
    })
  })
  await new Promise<void>((resolve, reject) => {
    tcp.once('error', reject)
    tcp.listen(options.port ?? 0, address, resolve)
  })
  const { port } = tcp.address() as { port: number }
  const udp = createSocket(address.includes(':') ? 'udp6' : 'udp4')
  udp.on('message', (octets, from) => {
    asked.udp++
    if (options.udp === false) return
    const query = decodeMessage(octets)
    whenSaid(responder(query, octets.length >= 2 ? octets.readUInt16BE(0) : 0, true), (replies) => {
      const all = octetsOf(replies, udpLimit(query))
      later(() => {
        for (const each of all) if (!closed) udp.send(each, from.port, from.address)
      })
    })
  })
  await new Promise<void>((resolve, reject) => {
    udp.once('error', reject)
    udp.bind(port, address, resolve)
  })
  return {
    address,
    port,
    asked,
    async close() {
      closed = true
      for (const socket of connections) socket.destroy()
      await Promise.all([
        new Promise<void>((resolve) => tcp.close(() => resolve())),
        new Promise<void>((resolve) => udp.close(() => resolve())),
      ])
    },
  }
}

/** Goes on at once with what is said at once. */
function whenSaid(said: ReturnType<Responder>, goOn: (replies: Replies) => void): void {
  if (said instanceof Promise) said.then(goOn, () => goOn(undefined))
  else goOn(said)
}

/** Answers as an authoritative server with these zones does; over TCP it hands them over whole. */
export const answering =
  (zones: Zones): Responder =>
  (query, id, udp) =>
    (!udp && asksTransfer(query) ? transferOf(zones, query) : undefined) ?? respond(zones, query, id)

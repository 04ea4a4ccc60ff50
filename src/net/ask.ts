/**
 * Asks one vantage: by UDP from randomly bound sockets with random ids, over to TCP when an answer was truncated or none came (RFC 7766, RFC 5452).
 * Only an answer from the address asked, with the id and the question asked, counts; everything else is passed over.
 */
import { randomInt } from 'node:crypto'
import { createSocket, type Socket } from 'node:dgram'
import { connect, isIPv6, type Socket as TcpSocket } from 'node:net'
import { performance } from 'node:perf_hooks'
import { answersQuestion, decodeMessage, encodeMessage, type Message, queryMessage } from '../core/message/message.ts'
import type { Name } from '../core/names/name.ts'
import type { Observation } from '../core/verdicts/verdict.ts'
import type { Vantage } from './vantage.ts'

export interface AskOptions {
  /** Milliseconds for one question, all tries together. */
  limitMs?: number
  /** Milliseconds to wait for the first try; each further one waits twice as long. */
  firstWaitMs?: number
  /** Questions under way at a time. */
  inFlight?: number
}

const SOCKETS = 4
/** After so many questions a socket is replaced by one on another port. */
const SOCKET_USES = 500
const UDP_TRIES = 2

interface Pending {
  query: Message
  answered(message: Message): void
  /** The system says that the port is closed. */
  unreachable(why: string): void
}

interface PoolSocket {
  socket: Socket
  ready: Promise<void>
  pending: Map<number, Pending>
  uses: number
}

type Reply = { message: Message } | { failed: string; garbled?: boolean }

export class Asker {
  readonly vantage: Vantage
  private readonly limitMs: number
  private readonly firstWaitMs: number
  private free: number
  private readonly waiting: (() => void)[] = []
  private readonly pool: PoolSocket[] = []
  private readonly retired = new Set<PoolSocket>()
  private readonly connections = new Set<TcpSocket>()
  private closed = false

  constructor(vantage: Vantage, options: AskOptions = {}) {
    this.vantage = vantage
    this.limitMs = options.limitMs ?? 5000
    this.firstWaitMs = options.firstWaitMs ?? 600
    this.free = options.inFlight ?? 64
  }

  /** Asks for a name and type; always resolves, with the answer or with why there is none. */
  async ask(name: Name, type: number): Promise<Observation> {
    if (this.free > 0) this.free--
    else await new Promise<void>((resolve) => this.waiting.push(resolve))
    try {
      return await this.tryAll(name, type)
    } finally {
      const next = this.waiting.shift()
      if (next) next()
      else this.free++
    }
  }

  /** Closes all sockets. Questions under way get no answer any more. */
  close(): void {
    this.closed = true
    for (const connection of this.connections) connection.destroy()
    for (const entry of [...this.pool, ...this.retired]) {
      for (const each of [...entry.pending.values()]) each.unreachable(CLOSED)
      closeQuietly(entry.socket)
    }
    this.pool.length = 0
    this.retired.clear()
  }

  private async tryAll(name: Name, type: number): Promise<Observation> {
    const started = performance.now()
    const left = (): number => this.limitMs - (performance.now() - started)
    const observed = (transport: 'udp' | 'tcp', reply: Reply): Observation => ({
      vantage: this.vantage.label,
      transport,
      tookMs: performance.now() - started,
      ...('message' in reply ? { message: reply.message } : { trouble: { kind: reply.garbled ? 'garbled' : 'no-reply', detail: reply.failed } }),
    })
    let wait = this.firstWaitMs
    let truncated = false
    let udp: Reply = { failed: '' }
    for (let attempt = 0; attempt < UDP_TRIES && left() > 0 && !truncated; attempt++, wait *= 2) {
      udp = await this.byUdp(queryMessage(0, name, type), Math.min(wait, left()))
      if ('message' in udp) {
        if (!udp.message.truncated) return observed('udp', udp)
        truncated = true
      } else if (udp.failed !== NOTHING) break
    }
    const tcp = await this.byTcp(queryMessage(randomInt(65_536), name, type), Math.max(left(), 1))
    if ('message' in tcp || tcp.garbled) return observed('tcp', tcp)
    return observed('tcp', {
      failed: truncated ? `the answer by UDP was cut short; TCP: ${tcp.failed}` : `UDP: ${'failed' in udp ? udp.failed : ''}; TCP: ${tcp.failed}`,
    })
  }

  private async byUdp(query: Message, waitMs: number): Promise<Reply> {
    if (this.closed) return { failed: CLOSED }
    const entry = this.socket()
    try {
      await entry.ready
    } catch (error) {
      return { failed: systemText(error) }
    }
    let id = randomInt(65_536)
    while (entry.pending.has(id)) id = randomInt(65_536)
    query.id = id
    return new Promise<Reply>((resolve) => {
      const done = (reply: Reply): void => {
        clearTimeout(timer)
        entry.pending.delete(id)
        this.release(entry)
        resolve(reply)
      }
      const timer = setTimeout(() => done({ failed: NOTHING }), waitMs)
      entry.pending.set(id, { query, answered: (message) => done({ message }), unreachable: (why) => done({ failed: why }) })
      entry.socket.send(encodeMessage(query), (error) => {
        if (error) done({ failed: systemText(error) })
      })
    })
  }

  /** A socket of the pool, chosen at random; the pool fills up first. */
  private socket(): PoolSocket {
    if (this.pool.length < SOCKETS) this.pool.push(this.open())
    const index = this.pool.length < SOCKETS ? this.pool.length - 1 : randomInt(SOCKETS)
    let entry = this.pool[index]
    if (++entry.uses > SOCKET_USES) {
      this.retired.add(entry)
      this.release(entry)
      entry = this.pool[index] = this.open()
    }
    return entry
  }

  private release(entry: PoolSocket): void {
    if (entry.pending.size > 0 || !this.retired.delete(entry)) return
    closeQuietly(entry.socket)
  }

  private open(): PoolSocket {
    const { address, port } = this.vantage
    const socket = createSocket(isIPv6(address) ? 'udp6' : 'udp4')
    const pending = new Map<number, Pending>()
    // A connected socket takes datagrams from the address and port asked only, and hears that a port is closed.
    const ready = new Promise<void>((resolve, reject) => {
      socket.once('error', reject)
      socket.connect(port, address, () => {
        socket.removeListener('error', reject)
        socket.on('error', (error) => {
          for (const each of [...pending.values()]) each.unreachable(systemText(error))
        })
        resolve()
      })
    })
    ready.catch(() => {})
    socket.on('message', (octets) => {
      if (octets.length < 12) return
      const waiting = pending.get((octets[0] << 8) | octets[1])
      if (!waiting) return
      const message = decodeMessage(octets)
      if ('garbled' in message || !answersQuestion(message, waiting.query)) return
      waiting.answered(message)
    })
    return { socket, ready, pending, uses: 0 }
  }

  private byTcp(query: Message, waitMs: number): Promise<Reply> {
    if (this.closed) return Promise.resolve({ failed: CLOSED })
    return new Promise<Reply>((resolve) => {
      const socket = connect({ host: this.vantage.address, port: this.vantage.port, noDelay: true })
      this.connections.add(socket)
      let received: Buffer = Buffer.alloc(0)
      const done = (reply: Reply): void => {
        clearTimeout(timer)
        this.connections.delete(socket)
        socket.destroy()
        resolve(reply)
      }
      const timer = setTimeout(() => done({ failed: NOTHING }), waitMs)
      socket.on('error', (error) => done({ failed: systemText(error) }))
      socket.on('close', () => done({ failed: 'the connection was closed without an answer' }))
      socket.on('connect', () => socket.write(framed(encodeMessage(query))))
      socket.on('data', (chunk: Buffer) => {
        received = received.length === 0 ? chunk : Buffer.concat([received, chunk])
        if (received.length < 2 || received.length < 2 + received.readUInt16BE(0)) return
        const message = decodeMessage(received.subarray(2, 2 + received.readUInt16BE(0)))
        if ('garbled' in message) done({ failed: `what came cannot be read: ${message.garbled}`, garbled: true })
        else if (answersQuestion(message, query)) done({ message })
        else done({ failed: 'what came answers another question', garbled: true })
      })
    })
  }
}

const NOTHING = 'nothing came'
const CLOSED = 'asking was stopped'

/** A message as TCP carries it: its length in two octets in front (RFC 1035 §4.2.2). */
export function framed(octets: Uint8Array): Buffer {
  const frame = Buffer.alloc(octets.length + 2)
  frame.writeUInt16BE(octets.length, 0)
  frame.set(octets, 2)
  return frame
}

function closeQuietly(socket: Socket): void {
  try {
    socket.close()
  } catch {
    // It was closed already.
  }
}

/** What the system says went wrong, in words. */
export function systemText(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException
  if (code === 'ECONNREFUSED') return 'the port is closed'
  if (code === 'ENETUNREACH' || code === 'EHOSTUNREACH') return 'there is no route from here'
  return code ?? String((error as Error).message)
}

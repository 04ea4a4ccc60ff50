/** Over one connection for many questions: TCP (RFC 7766), or TLS (RFC 7858) with the certificate verified. */
import { connect, isIP, type Socket } from 'node:net'
import type { connect as connectTls } from 'node:tls'
import type { Clock } from '../../core/clock.ts'
import {
  CLOSED,
  CUT_OFF,
  failure,
  framed,
  NOTHING,
  type Query,
  type Reply,
  randomId,
  replyOf,
  setId,
  type Way,
} from './way.ts'

export interface Secured {
  connect: typeof connectTls
  /** The name that the certificate must be for; without it, the address itself. */
  name?: string
  /** Certificates of the authorities that are trusted (PEM), instead of the system’s. */
  authority?: string
}

interface Waiting {
  query: Query
  stopWaiting(): void
  done(reply: Reply): void
}

interface Line {
  socket: Socket
  ready: Promise<Reply | undefined>
  waiting: Map<number, Waiting>
  /** Answers that came over it. */
  answered: number
}

/** Lines at a time to one that closes each after an answer. */
const LINES = 8

export class Stream implements Way {
  private readonly address: string
  private readonly port: number
  private readonly clock: Clock
  private readonly secured: Secured | undefined
  private line: Line | undefined
  /** It closes the line after each answer. */
  private oneEach = false
  private busy = 0
  private readonly queue: (() => void)[] = []
  private closed = false

  constructor(address: string, port: number, clock: Clock, secured?: Secured) {
    this.address = address
    this.port = port
    this.clock = clock
    this.secured = secured
  }

  /** A line that was closed after an answer is opened anew: whoever answers may close one that was idle, or after each answer. */
  async send(query: Query, waitMs: number): Promise<Reply> {
    const until = this.clock.elapsed() + waitMs
    for (;;) {
      if (this.closed) return CLOSED
      if (this.oneEach) return this.alone(query, until)
      let line: Line
      try {
        line = this.line ??= this.open()
      } catch (error) {
        return failure(error)
      }
      const reply = await this.over(line, query, until)
      if (reply !== CUT_OFF || line.answered === 0 || this.clock.elapsed() >= until) return reply
    }
  }

  /** Over a line of its own. */
  private async alone(query: Query, until: number): Promise<Reply> {
    while (this.busy >= LINES) await new Promise<void>((go) => this.queue.push(go))
    this.busy++
    let line: Line | undefined
    try {
      line = this.open()
      return this.clock.elapsed() >= until ? NOTHING : await this.over(line, query, until)
    } catch (error) {
      return failure(error)
    } finally {
      line?.socket.destroy()
      this.busy--
      this.queue.shift()?.()
    }
  }

  close(): void {
    this.closed = true
    for (const each of [...(this.line?.waiting.values() ?? [])]) each.done(CLOSED)
    this.line?.socket.destroy()
    this.line = undefined
  }

  private async over(line: Line, query: Query, until: number): Promise<Reply> {
    let stopWaiting = (): void => {}
    const late = new Promise<Reply>((resolve) => {
      stopWaiting = this.clock.after(this.left(until), () => resolve(NOTHING))
    })
    const failed = await Promise.race([line.ready, late])
    stopWaiting()
    if (failed) {
      // A line that never opens is given up, for others too.
      if (failed === NOTHING) this.drop(line)
      return failed
    }
    return new Promise<Reply>((resolve) => {
      let id = randomId()
      while (line.waiting.has(id)) id = randomId()
      setId(query, id)
      const done = (reply: Reply): void => {
        waiting.stopWaiting()
        line.waiting.delete(id)
        resolve(reply)
      }
      const waiting: Waiting = { query, done, stopWaiting: this.clock.after(this.left(until), () => done(NOTHING)) }
      line.waiting.set(id, waiting)
      line.socket.write(framed(query.query))
    })
  }

  private left(until: number): number {
    return Math.max(1, until - this.clock.elapsed())
  }

  private drop(line: Line): void {
    if (this.line === line) this.line = undefined
    line.socket.destroy()
  }

  private open(): Line {
    const { address: host, port, secured } = this
    const name = secured?.name ?? host
    const socket: Socket = secured
      ? secured.connect({
          host,
          port,
          ALPNProtocols: ['dot'],
          minVersion: 'TLSv1.2',
          ca: secured.authority,
          ...(isIP(name) ? {} : { servername: name }),
        })
      : connect({ host, port })
    socket.setNoDelay(true)
    const waiting = new Map<number, Waiting>()
    const line: Line = { socket, waiting, answered: 0, ready: Promise.resolve(undefined) }
    line.ready = new Promise((resolve) => {
      const end = (reply: Reply): void => {
        if (this.line === line) this.line = undefined
        if (reply === CUT_OFF && line.answered === 1 && waiting.size > 0) this.oneEach = true
        resolve(reply)
        for (const each of [...waiting.values()]) each.done(reply)
      }
      socket.on('error', (error) => end(failure(error)))
      socket.on('close', () => end(CUT_OFF))
      socket.on(secured ? 'secureConnect' : 'connect', () => resolve(undefined))
    })
    let received: Buffer = Buffer.alloc(0)
    socket.on('data', (chunk: Buffer) => {
      received = received.length === 0 ? chunk : Buffer.concat([received, chunk])
      let at = 0
      for (; received.length - at >= 2; ) {
        const end = at + 2 + received.readUInt16BE(at)
        if (received.length < end) break
        const octets = received.subarray(at + 2, end)
        const each = waiting.get(octets.length >= 2 ? octets.readUInt16BE(0) : -1)
        line.answered++
        each?.done(replyOf(octets, each.query) ?? { failed: 'the reply answers a different query', garbled: true })
        at = end
      }
      received = received.subarray(at)
    })
    return line
  }
}

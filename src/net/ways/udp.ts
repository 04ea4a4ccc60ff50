/**
 * By UDP, from a pool of sockets on random ports that are renewed (RFC 5452 §9.2). Only what comes from the address and port asked, with the id and the question asked, counts;
 * everything else, and what comes late, is passed over.
 */
import { createSocket, type Socket } from 'node:dgram'
import { isIPv6 } from 'node:net'
import type { Clock } from '../../core/clock.ts'
import { CLOSED, failure, NOTHING, type Query, type Reply, randomId, replyOf, setId } from './way.ts'

const SOCKETS = 4
/** After so many questions a socket is replaced by one on another port. */
const SOCKET_USES = 2000
/** How often is looked for questions whose time is over, in milliseconds. */
const SWEEP = 20
/** How much longer a right answer may take once a garbled one came: somebody may have sent that one to be in front. */
const AFTER_GARBLED = 200

/** Of a question: it was told that nothing came. */
const TOLD = Number.POSITIVE_INFINITY

interface Waiting {
  query: Query
  /** When it is told that nothing came, and when it is given up: milliseconds. */
  until: number
  end: number
  garbled?: Reply
  done(reply: Reply): void
}

interface PoolSocket {
  socket: Socket
  ready: Promise<void> | undefined
  waiting: Map<number, Waiting>
  uses: number
}

export class Udp {
  private readonly address: string
  private readonly port: number
  private readonly clock: Clock
  private readonly pool: PoolSocket[] = []
  private readonly retired = new Set<PoolSocket>()
  private stopSweeping: (() => void) | undefined
  /** The time when that was done last: near enough for the time from which a question counts. */
  private swept = 0
  private closed = false

  constructor(address: string, port: number, clock: Clock) {
    this.address = address
    this.port = port
    this.clock = clock
  }

  /**
   * Sends a question and hands over what came; without a promise, since thousands are under way in a second. After `waitMs` it is told that nothing came;
   * an answer that comes later than that is still handed over, until `keepMs` are over.
   */
  send(query: Query, waitMs: number, keepMs: number, done: (reply: Reply) => void): void {
    if (this.closed) {
      done(CLOSED)
      return
    }
    let entry: PoolSocket
    try {
      entry = this.socket()
    } catch (error) {
      done(failure(error))
      return
    }
    if (entry.ready)
      entry.ready.then(
        () => (this.closed ? done(CLOSED) : this.put(entry, query, waitMs, keepMs, done)),
        (error) => done(failure(error)),
      )
    else this.put(entry, query, waitMs, keepMs, done)
  }

  private put(entry: PoolSocket, query: Query, waitMs: number, keepMs: number, done: (reply: Reply) => void): void {
    if (!this.stopSweeping) {
      this.swept = this.clock.elapsed()
      this.sweepLater()
    }
    let id = randomId()
    while (entry.waiting.has(id)) id = randomId()
    setId(query, id)
    entry.waiting.set(id, { query, until: this.swept + waitMs, end: this.swept + keepMs, done })
    if (this.outbox.push(entry, query.query) === 2) setImmediate(this.flush)
  }

  /** Questions go out together once all that came was read: one answer read, one question sent, wakes both sides for each. */
  private readonly outbox: (PoolSocket | Uint8Array)[] = []
  private readonly flush = (): void => {
    const { outbox } = this
    if (!this.closed)
      for (let i = 0; i < outbox.length; i += 2) {
        const entry = outbox[i] as PoolSocket
        try {
          entry.socket.send(outbox[i + 1] as Uint8Array)
        } catch (error) {
          this.giveUp(entry, failure(error))
        }
      }
    outbox.length = 0
  }

  private settle(entry: PoolSocket, id: number, each: Waiting, reply: Reply): void {
    entry.waiting.delete(id)
    if (this.retired.size > 0) this.release(entry)
    each.done(reply)
  }

  /** Everything under way over a socket fails, and no more goes over it. */
  private giveUp(entry: PoolSocket, reply: Reply): void {
    const at = this.pool.indexOf(entry)
    if (at >= 0) this.pool.splice(at, 1)
    this.retired.delete(entry)
    closeQuietly(entry.socket)
    for (const [id, each] of [...entry.waiting]) this.settle(entry, id, each, reply)
  }

  close(): void {
    this.closed = true
    this.stopSweeping?.()
    for (const entry of [...this.pool, ...this.retired]) {
      for (const [id, each] of [...entry.waiting]) this.settle(entry, id, each, CLOSED)
      closeQuietly(entry.socket)
    }
    this.pool.length = 0
    this.retired.clear()
  }

  private readonly sweepLater = (): void => {
    this.stopSweeping = this.clock.after(SWEEP, () => {
      this.sweep()
      // What was settled may have asked again at once.
      const goesOn = !this.closed && [...this.pool, ...this.retired].some(({ waiting }) => waiting.size > 0)
      if (goesOn) this.sweepLater()
      else this.stopSweeping = undefined
    })
  }

  private sweep(): void {
    const now = this.clock.elapsed()
    // Where this program itself was held up, answers are there that it has not read yet: nobody is given up for that.
    const late = now - this.swept - SWEEP
    this.swept = now
    if (late > SWEEP) {
      for (const { waiting } of [...this.pool, ...this.retired])
        for (const each of waiting.values()) {
          each.until += late
          each.end += late
        }
      return
    }
    for (const entry of [...this.pool, ...this.retired]) {
      for (const [id, each] of [...entry.waiting]) {
        if (each.until <= now) {
          if (each.garbled || each.end <= now) entry.waiting.delete(id)
          else each.until = TOLD
          each.done(each.garbled ?? NOTHING)
        } else if (each.until === TOLD && each.end <= now) entry.waiting.delete(id)
      }
      if (this.retired.size > 0) this.release(entry)
    }
  }

  /** A socket of the pool, chosen at random; the pool fills up first. */
  private socket(): PoolSocket {
    if (this.pool.length < SOCKETS) this.pool.push(this.open())
    const index = this.pool.length < SOCKETS ? this.pool.length - 1 : randomId() % SOCKETS
    let entry = this.pool[index]!
    if (++entry.uses > SOCKET_USES) {
      this.retired.add(entry)
      this.release(entry)
      entry = this.pool[index] = this.open()
    }
    return entry
  }

  private release(entry: PoolSocket): void {
    if (entry.waiting.size > 0 || !this.retired.delete(entry)) return
    closeQuietly(entry.socket)
  }

  private open(): PoolSocket {
    const socket = createSocket(isIPv6(this.address) ? 'udp6' : 'udp4')
    const waiting = new Map<number, Waiting>()
    const entry: PoolSocket = { socket, waiting, uses: 0, ready: undefined }
    // A connected socket takes datagrams from the address and port asked only, and hears that a port is closed.
    entry.ready = new Promise<void>((resolve, reject) => {
      const failed = (error: Error): void => {
        this.giveUp(entry, failure(error))
        reject(error)
      }
      socket.once('error', failed)
      // The callback is called where connecting failed, too.
      socket.connect(this.port, this.address, ((error?: Error | null) => {
        if (error) return failed(error)
        socket.removeListener('error', failed)
        socket.on('error', (error) => {
          for (const [id, each] of [...waiting]) this.settle(entry, id, each, failure(error))
        })
        entry.ready = undefined
        resolve()
      }) as () => void)
    })
    entry.ready.catch(() => {})
    socket.on('message', (octets) => {
      const id = octets.length < 12 ? -1 : (octets[0]! << 8) | octets[1]!
      const each = waiting.get(id)
      const reply = each && replyOf(octets, each.query)
      if (!each || !reply) return
      if ('message' in reply) this.settle(entry, id, each, reply)
      else {
        each.garbled = reply
        each.until = Math.min(each.until, this.clock.elapsed() + AFTER_GARBLED)
      }
    })
    return entry
  }
}

function closeQuietly(socket: Socket): void {
  try {
    socket.close()
  } catch {
    // It was closed already.
  }
}

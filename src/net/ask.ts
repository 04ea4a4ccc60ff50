/** Asks one vantage: at most so many questions under way, no faster than it is polite, again where nothing came, over to TCP where an answer was cut short or none came by UDP. */
import { readFileSync } from 'node:fs'
import type { Clock } from '../core/clock.ts'
import type { Observation, Transport, Vantage } from '../core/confirm/observation.ts'
import { isNear } from '../core/confirm/vantage.ts'
import { type How, queryOctets } from '../core/message/encode.ts'
import type { Name } from '../core/names/name.ts'
import { Stream } from './ways/stream.ts'
import { Udp } from './ways/udp.ts'
import { CLOSED, failure, NOTHING, type Query, type Reply, type Way } from './ways/way.ts'

export interface AskOptions {
  /** Milliseconds for one question, all tries together. */
  limitMs?: number
  /** Milliseconds to wait for the first try; each further one waits longer. */
  firstWaitMs?: number
  /** Questions under way at a time. */
  inFlight?: number
  /** Go on asking one that answers nothing at all; else nothing more is sent to it for a while. */
  patient?: boolean
  /** Questions a second; 0: as many as there are. Without it, 50 for others’ servers, and no limit near by. */
  rate?: number
}

const UDP_TRIES = 3
/** After so many questions in a row without any answer, nothing more is asked for a while: a dead server shall not cost each question its full time. */
const SILENT = 12
const SILENT_MS = 20_000
const POLITE = 50

export class Asker {
  readonly vantage: Vantage
  private readonly clock: Clock
  private readonly limitMs: number
  private readonly firstWaitMs: number
  private free: number
  private readonly waiting: (() => void)[] = []
  /** Milliseconds from one question to the next; the time at which the next may go. */
  private readonly pace: number
  private next = 0
  private udp: Udp | undefined
  private readonly ways = new Map<Transport, Way | Promise<Way>>()
  private closed = false
  private readonly patient: boolean
  private unanswered = 0
  private lastTried = 0

  constructor(vantage: Vantage, clock: Clock, options: AskOptions = {}) {
    this.vantage = vantage
    this.clock = clock
    this.limitMs = options.limitMs ?? 5000
    this.firstWaitMs = options.firstWaitMs ?? 600
    this.free = options.inFlight ?? 128
    this.patient = options.patient ?? false
    const rate = options.rate ?? (isNear(vantage.address) ? 0 : POLITE)
    this.pace = rate > 0 ? 1000 / rate : 0
  }

  /** Asks for a name and type; always resolves, with the answer or with why there is none. */
  ask(name: Name, type: number, how: How = {}): Promise<Observation> {
    return new Promise((resolve) => {
      const begin = (): void => {
        if (!this.patient && this.unanswered >= SILENT && this.clock.elapsed() - this.lastTried < SILENT_MS) {
          const detail = `no reply to the last ${this.unanswered} queries, so this one was not sent`
          end({
            vantage: this.vantage.label,
            transport: this.vantage.transport ?? 'udp',
            tookMs: 0,
            at: this.clock.now(),
            trouble: { kind: 'no-reply', detail },
          })
        } else if (this.pace > 0) void this.turn().then(() => this.tryAll(name, type, how, end))
        else this.tryAll(name, type, how, end)
      }
      const end = (observation: Observation): void => {
        if (observation.message) this.unanswered = 0
        else if (observation.tookMs > 0 && observation.trouble?.kind === 'no-reply') {
          this.unanswered++
          this.lastTried = this.clock.elapsed()
        }
        resolve(observation)
        const next = this.waiting.shift()
        if (next) next()
        else this.free++
      }
      if (this.free > 0) {
        this.free--
        begin()
      } else this.waiting.push(begin)
    })
  }

  /** Closes everything. Questions under way get no answer any more. */
  close(): void {
    this.closed = true
    this.udp?.close()
    for (const way of this.ways.values()) if (!(way instanceof Promise)) way.close()
    this.ways.clear()
  }

  /** Waits until the next question may go. */
  private async turn(): Promise<void> {
    const now = this.clock.elapsed()
    const at = Math.max(this.next, now)
    this.next = at + this.pace
    if (at > now) await new Promise<void>((resolve) => void this.clock.after(at - now, resolve))
  }

  private tryAll(name: Name, type: number, how: How, done: (observation: Observation) => void): void {
    const started = this.clock.elapsed()
    const took = (): number => this.clock.elapsed() - started
    const left = (): number => Math.max(1, this.limitMs - took())
    const end = (transport: Transport, reply: Reply): void => {
      const trouble =
        'message' in reply
          ? undefined
          : ({
              kind: reply.garbled ? 'garbled' : reply.noRoute ? 'not-tried' : 'no-reply',
              detail: reply.failed,
            } as const)
      const message = 'message' in reply ? reply.message : undefined
      done({
        vantage: this.vantage.label,
        transport,
        tookMs: took(),
        at: this.clock.now(),
        message,
        trouble,
      })
    }
    const query = { query: queryOctets(0, name, type, how), name }
    const { transport = 'udp' } = this.vantage
    if (transport !== 'udp') {
      void this.over(transport, query, this.limitMs).then((reply) => end(transport, reply))
      return
    }
    let wait = this.firstWaitMs
    let attempts = 0
    const byTcp = async (udp: Reply): Promise<void> => {
      const tcp = await this.over('tcp', query, left())
      const failed =
        'failed' in tcp &&
        `${'failed' in udp ? `UDP: ${udp.failed}` : 'the UDP answer was truncated'}; TCP: ${tcp.failed}`
      end(
        'tcp',
        failed && !('garbled' in tcp && tcp.garbled) ? { failed, garbled: 'failed' in udp && udp.garbled } : tcp,
      )
    }
    this.udp ??= new Udp(this.vantage.address, this.vantage.port, this.clock)
    const { udp } = this
    const heard = (reply: Reply): void => {
      if ('message' in reply ? !reply.message.truncated : reply.noRoute || reply === CLOSED) end('udp', reply)
      else if (reply === NOTHING && ++attempts < UDP_TRIES && took() < this.limitMs / 2) {
        wait *= 1.6
        udp.send(query, Math.min(wait, left()), heard)
      } else void byTcp(reply)
    }
    udp.send(query, Math.min(wait, this.limitMs), heard)
  }

  private over(transport: Transport, query: Query, waitMs: number): Promise<Reply> {
    let way = this.ways.get(transport)
    if (!way) {
      const made = this.open(transport)
      this.ways.set(transport, (way = made))
      if (made instanceof Promise)
        made.then(
          (opened) => (this.closed ? opened.close() : this.ways.set(transport, opened)),
          () => {},
        )
    }
    // Whatever a socket throws is an answer that there is none.
    return (way instanceof Promise ? way.then((opened) => opened.send(query, waitMs)) : way.send(query, waitMs)).catch(
      failure,
    )
  }

  private open(transport: Transport): Way | Promise<Way> {
    const { address, port, name, authority, path, method } = this.vantage
    if (transport === 'tcp') return new Stream(address, port, this.clock)
    return (async () => {
      const { connect } = await import('node:tls')
      const secured = {
        connect,
        name,
        authority: authority === undefined ? undefined : readFileSync(authority, 'utf8'),
      }
      if (transport === 'tls') return new Stream(address, port, this.clock, secured)
      const { Https } = await import('./ways/https.ts')
      return new Https({ address, port, path: path ?? '/dns-query', method: method ?? 'post', secured }, this.clock)
    })()
  }
}

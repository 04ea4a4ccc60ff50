/** Asks one vantage: at most so many questions under way, no faster than it is polite, again where nothing came, over to TCP where an answer was cut short or none came by UDP. */
import { readFileSync } from 'node:fs'
import type { Clock } from '../core/clock.ts'
import type { Observation, Transport, Vantage } from '../core/confirm/observation.ts'
import { isNear } from '../core/confirm/vantage.ts'
import { type How, queryOctets } from '../core/message/encode.ts'
import type { Name } from '../core/names/name.ts'
import { EdnsSupport, NO_EDNS, Silence } from './traits.ts'
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
  private readonly silence: Silence
  private readonly edns = new EdnsSupport()

  constructor(vantage: Vantage, clock: Clock, options: AskOptions = {}) {
    this.vantage = vantage
    this.clock = clock
    this.limitMs = options.limitMs ?? 5000
    this.firstWaitMs = options.firstWaitMs ?? 600
    this.free = options.inFlight ?? 128
    this.patient = options.patient ?? false
    this.silence = new Silence(() => clock.elapsed())
    const rate = options.rate ?? (isNear(vantage.address) ? 0 : POLITE)
    this.pace = rate > 0 ? 1000 / rate : 0
  }

  /** Asks for a name and type; always resolves, with the answer or with why there is none. */
  ask(name: Name, type: number, how: How = {}): Promise<Observation> {
    return new Promise((resolve) => {
      const begin = (): void => {
        const silent = this.patient ? undefined : this.silence.of(type)
        if (silent !== undefined) {
          end({
            vantage: this.vantage.label,
            transport: this.vantage.transport ?? 'udp',
            tookMs: 0,
            at: this.clock.now(),
            trouble: { kind: 'no-reply', detail: silent },
          })
        } else if (this.pace > 0) void this.turn().then(() => this.tryAll(name, type, how, end))
        else this.tryAll(name, type, how, end)
      }
      const end = (observation: Observation): void => {
        if (observation.message) this.silence.answered(type)
        else if (observation.tookMs > 0 && observation.trouble?.kind === 'no-reply') this.silence.unanswered(type)
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

  /** Asks until an answer is there, whichever try it is to, or the time is over. */
  private tryAll(name: Name, type: number, how: How, done: (observation: Observation) => void): void {
    const started = this.clock.elapsed()
    const took = (): number => this.clock.elapsed() - started
    const left = (): number => Math.max(1, this.limitMs - took())
    let over = false
    const end = (transport: Transport, reply: Reply, plain: boolean): void => {
      if (over) return
      over = true
      const message = 'message' in reply ? reply.message : undefined
      if (message && !how.plain) this.edns.answered(plain)
      done({
        vantage: this.vantage.label,
        transport,
        tookMs: took(),
        at: this.clock.now(),
        message,
        trouble: 'failed' in reply ? troubleOf(reply) : undefined,
        ...(plain && !how.plain && message ? { plain } : {}),
      })
    }
    const query = (plain: boolean): Query => ({
      query: queryOctets(0, name, type, plain ? { ...how, plain } : how),
      name,
    })
    /** An answer that a question without EDNS may better: that is asked at once. */
    const better = (reply: Reply, plain: boolean): boolean =>
      !plain && ('message' in reply ? NO_EDNS.has(reply.message.rcode) : reply.garbled === true)
    const { transport = 'udp' } = this.vantage
    const byStream = async (over: Transport, plain: boolean): Promise<[Reply, boolean]> => {
      const reply = await this.over(over, query(plain), left())
      if (!better(reply, plain)) return [reply, plain]
      const second = await this.over(over, query(true), left())
      return better(second, false) || 'failed' in second ? [reply, plain] : [second, true]
    }
    if (transport !== 'udp') {
      void byStream(transport, this.edns.missing).then(([reply, plain]) => end(transport, reply, plain))
      return
    }
    let wait = this.firstWaitMs
    let attempts = 0
    let onTcp = false
    const byTcp = async (udp: Reply, wasPlain: boolean): Promise<void> => {
      onTcp = true
      const [tcp, plain] = await byStream('tcp', wasPlain)
      const failed =
        'failed' in tcp &&
        `${'failed' in udp ? `UDP: ${udp.failed}` : 'the UDP answer was truncated'}; TCP: ${tcp.failed}`
      const both = failed && !('garbled' in tcp && tcp.garbled)
      // An answer by UDP may still be on its way.
      if (both && udp === NOTHING && left() > 1 && tcp !== CLOSED) await this.waits(left())
      end('tcp', both ? { failed, garbled: 'failed' in udp && udp.garbled } : tcp, plain)
    }
    this.udp ??= new Udp(this.vantage.address, this.vantage.port, this.clock)
    const { udp } = this
    const send = (plain: boolean, waitMs: number): void => {
      udp.send(query(plain), Math.min(waitMs, left()), left(), (reply) => heard(reply, plain))
    }
    const heard = (reply: Reply, plain: boolean): void => {
      if (over) return
      if (reply === NOTHING) {
        // With a server that never answered with EDNS, that may be why.
        if (++attempts < UDP_TRIES && took() < this.limitMs / 2)
          send(!this.edns.known && attempts % 2 === 1, (wait *= 1.6))
        else if (!onTcp) void byTcp(reply, plain)
      } else if (better(reply, plain)) {
        const first = reply
        udp.send(query(true), Math.min(wait, left()), left(), (second) => {
          if (second === NOTHING || better(second, false)) end('udp', first, plain)
          else heard(second, true)
        })
      } else if ('message' in reply ? !reply.message.truncated : reply.noRoute || reply === CLOSED)
        end('udp', reply, plain)
      else if (!onTcp) void byTcp(reply, plain)
    }
    send(this.edns.missing || how.plain === true, wait)
  }

  private waits(milliseconds: number): Promise<void> {
    return new Promise((resolve) => void this.clock.after(milliseconds, resolve))
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

const troubleOf = ({ failed, garbled, noRoute }: Extract<Reply, { failed: string }>): Observation['trouble'] => ({
  kind: garbled ? 'garbled' : noRoute ? 'not-tried' : 'no-reply',
  detail: failed,
})

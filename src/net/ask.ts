/** Asks one vantage: at most so many questions under way, no faster than it is polite, again where nothing came, over to TCP where an answer was cut short or none came by UDP. */
import { readFileSync } from 'node:fs'
import type { Clock } from '../core/clock.ts'
import type { Observation, Transport, Vantage } from '../core/confirm/observation.ts'
import { isNear } from '../core/confirm/vantage.ts'
import type { How } from '../core/message/encode.ts'
import type { Name } from '../core/names/name.ts'
import { type Asked, Attempt } from './attempt.ts'
import { EdnsSupport, Silence } from './traits.ts'
import { Stream } from './ways/stream.ts'
import { Udp } from './ways/udp.ts'
import { failure, type Query, type Reply, type Way } from './ways/way.ts'

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

const POLITE = 50

export class Asker implements Asked {
  readonly vantage: Vantage
  readonly clock: Clock
  readonly limitMs: number
  readonly firstWaitMs: number
  private free: number
  private readonly waiting: (() => void)[] = []
  /** Milliseconds from one question to the next; the time at which the next may go. */
  private readonly pace: number
  private next = 0
  private sockets: Udp | undefined
  private readonly ways = new Map<Transport, Way | Promise<Way>>()
  private closed = false
  private readonly patient: boolean
  private readonly silence: Silence
  readonly edns = new EdnsSupport()

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
        } else if (this.pace > 0) void this.turn().then(() => new Attempt(this, name, type, how, end).begin())
        else new Attempt(this, name, type, how, end).begin()
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
    this.sockets?.close()
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

  /** By UDP, from sockets of its own. */
  get udp(): Udp {
    return (this.sockets ??= new Udp(this.vantage.address, this.vantage.port, this.clock))
  }

  over(transport: Transport, query: Query, waitMs: number): Promise<Reply> {
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

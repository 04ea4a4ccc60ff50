/** One question to a vantage: its tries by UDP, and over to TCP, until an answer is there, whichever try it is to, or the time is over. */
import type { Clock } from '../core/clock.ts'
import type { Observation, Transport, Vantage } from '../core/confirm/observation.ts'
import { type How, queryOctets } from '../core/message/encode.ts'
import type { Name } from '../core/names/name.ts'
import { type EdnsSupport, NO_EDNS } from './traits.ts'
import type { Udp } from './ways/udp.ts'
import { CLOSED, NOTHING, type Query, type Reply } from './ways/way.ts'

/** Whom the question goes to. Times are milliseconds. */
export interface Asked {
  readonly vantage: Vantage
  readonly clock: Clock
  readonly limitMs: number
  readonly firstWaitMs: number
  readonly edns: EdnsSupport
  readonly udp: Udp
  over(transport: Transport, query: Query, waitMs: number): Promise<Reply>
}

const UDP_TRIES = 3
/** Each further try waits so much longer. */
const LONGER = 1.6

export class Attempt {
  private readonly to: Asked
  private readonly name: Name
  private readonly type: number
  private readonly how: How
  private readonly done: (observation: Observation) => void
  private readonly started: number
  private wait: number
  private tries = 0
  private onTcp = false
  private isOver = false

  constructor(to: Asked, name: Name, type: number, how: How, done: (observation: Observation) => void) {
    this.to = to
    this.name = name
    this.type = type
    this.how = how
    this.done = done
    this.started = to.clock.elapsed()
    this.wait = to.firstWaitMs
  }

  begin(): void {
    const { transport = 'udp' } = this.to.vantage
    const plain = this.to.edns.missing || this.how.plain === true
    if (transport === 'udp') this.send(plain)
    else void this.byStream(transport, plain).then(([reply, isPlain]) => this.end(transport, reply, isPlain))
  }

  private send(plain: boolean): void {
    const left = this.left()
    this.to.udp.send(this.query(plain), Math.min(this.wait, left), left, (reply) => this.heard(reply, plain))
  }

  private heard(reply: Reply, plain: boolean): void {
    if (this.isOver) return
    if (reply === NOTHING) this.goOn(plain)
    else if (this.mayBeBetter(reply, plain)) this.askPlainly(reply)
    else if ('message' in reply ? !reply.message.truncated : reply.noRoute || reply === CLOSED)
      this.end('udp', reply, plain)
    else void this.byTcp(reply, plain)
  }

  /** Nothing came in time: asks again, and at last by TCP. */
  private goOn(plain: boolean): void {
    this.tries++
    if (this.tries < UDP_TRIES && this.took() < this.to.limitMs / 2) {
      this.wait *= LONGER
      // With a server that never answered with EDNS, that may be why.
      this.send(this.how.plain === true || (!this.to.edns.known && this.tries % 2 === 1))
    } else void this.byTcp(NOTHING, plain)
  }

  /** Whether a question without EDNS may bring more than this answer. */
  private mayBeBetter(reply: Reply, plain: boolean): boolean {
    return !plain && ('message' in reply ? NO_EDNS.has(reply.message.rcode) : reply.garbled === true)
  }

  private askPlainly(first: Reply): void {
    const left = this.left()
    this.to.udp.send(this.query(true), Math.min(this.wait, left), left, (second) => {
      if (second === NOTHING || this.mayBeBetter(second, false)) this.end('udp', first, false)
      else this.heard(second, true)
    })
  }

  private async byStream(transport: Transport, plain: boolean): Promise<[Reply, boolean]> {
    const reply = await this.to.over(transport, this.query(plain), this.left())
    if (!this.mayBeBetter(reply, plain)) return [reply, plain]
    const second = await this.to.over(transport, this.query(true), this.left())
    return 'failed' in second || this.mayBeBetter(second, false) ? [reply, plain] : [second, true]
  }

  private async byTcp(udp: Reply, wasPlain: boolean): Promise<void> {
    if (this.onTcp) return
    this.onTcp = true
    const [tcp, plain] = await this.byStream('tcp', wasPlain)
    if (!('failed' in tcp) || tcp.garbled) {
      this.end('tcp', tcp, plain)
      return
    }
    // An answer by UDP may still be on its way.
    if (udp === NOTHING && tcp !== CLOSED && !this.isOver && this.left() > 1)
      await new Promise<void>((resolve) => void this.to.clock.after(this.left(), resolve))
    const failed = `${'failed' in udp ? `UDP: ${udp.failed}` : 'the UDP answer was truncated'}; TCP: ${tcp.failed}`
    this.end('tcp', { failed, garbled: 'failed' in udp && udp.garbled }, plain)
  }

  private end(transport: Transport, reply: Reply, plain: boolean): void {
    if (this.isOver) return
    this.isOver = true
    const message = 'message' in reply ? reply.message : undefined
    const isPlain = plain && !this.how.plain
    if (message && !this.how.plain) this.to.edns.answered(plain)
    this.done({
      vantage: this.to.vantage.label,
      transport,
      tookMs: this.took(),
      at: this.to.clock.now(),
      message,
      trouble: 'failed' in reply ? troubleOf(reply) : undefined,
      plain: message !== undefined && isPlain ? true : undefined,
    })
  }

  private query(plain: boolean): Query {
    const how = plain && !this.how.plain ? { ...this.how, plain } : this.how
    return { query: queryOctets(0, this.name, this.type, how), name: this.name }
  }

  private took(): number {
    return this.to.clock.elapsed() - this.started
  }

  private left(): number {
    return Math.max(1, this.to.limitMs - this.took())
  }
}

const troubleOf = ({
  failed,
  garbled,
  unusable,
  noRoute,
}: Extract<Reply, { failed: string }>): Observation['trouble'] => ({
  kind: garbled ? 'garbled' : unusable ? 'unusable' : noRoute ? 'not-tried' : 'no-reply',
  detail: failed,
})

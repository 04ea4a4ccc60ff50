/** Over HTTPS (RFC 8484), by HTTP/2: many questions over one connection, each as POST or GET. */
import { type ClientHttp2Session, connect as connectHttp2 } from 'node:http2'
import { isIP } from 'node:net'
import type { Clock } from '../../core/clock.ts'
import type { MessageRecord } from '../../core/message/message.ts'
import type { Secured } from './stream.ts'
import { CLOSED, CUT_OFF, failure, NOTHING, type Query, type Reply, replyOf, setId, type Way } from './way.ts'

const MEDIA_TYPE = 'application/dns-message'
const MOST = 65_535

export interface HttpsEnd {
  /** An address or a host’s name. */
  address: string
  port: number
  /** That of the URL. */
  path: string
  method: 'post' | 'get'
  secured: Secured
}

export class Https implements Way {
  private readonly end: HttpsEnd
  private readonly clock: Clock
  private session: ClientHttp2Session | undefined
  private closed = false

  constructor(end: HttpsEnd, clock: Clock) {
    this.end = end
    this.clock = clock
  }

  async send(query: Query, waitMs: number): Promise<Reply> {
    if (this.closed) return CLOSED
    // RFC 8484 §4.1: an id of zero, so that answers can be kept by caches on the way.
    setId(query, 0)
    let session: ClientHttp2Session
    try {
      session = this.session ??= this.open()
    } catch (error) {
      return failure(error)
    }
    return new Promise<Reply>((resolve) => {
      const done = (reply: Reply): void => {
        stopWaiting()
        session.off('error', failed)
        session.off('close', gone)
        resolve(reply)
      }
      const failed = (error: unknown): void => done(failure((error as Error).cause ?? error))
      const gone = (): void => done(this.closed ? CLOSED : CUT_OFF)
      session.on('error', failed)
      session.on('close', gone)
      const stopWaiting = this.clock.after(waitMs, () => {
        // A connection that never opened is given up, for others too.
        if (session.connecting) session.destroy()
        done(NOTHING)
      })
      try {
        const post = this.end.method === 'post'
        const path = post
          ? this.end.path
          : `${this.end.path}${this.end.path.includes('?') ? '&' : '?'}dns=${Buffer.from(query.query).toString('base64url')}`
        const request = session.request({
          ':method': post ? 'POST' : 'GET',
          ':path': path,
          accept: MEDIA_TYPE,
          ...(post ? { 'content-type': MEDIA_TYPE, 'content-length': query.query.length } : {}),
        })
        let status = 0
        let kind = ''
        let length = 0
        const chunks: Buffer[] = []
        let age = 0
        request.on('response', (headers) => {
          status = Number(headers[':status'])
          age = Math.max(0, Math.floor(Number(headers.age ?? 0))) || 0
          kind = String(headers['content-type'] ?? '')
        })
        request.on('data', (chunk: Buffer) => {
          length += chunk.length
          if (length <= MOST) chunks.push(chunk)
          else request.close()
        })
        request.on('error', failed)
        request.on('end', () => {
          if (status < 200 || status > 299)
            return done({ failed: `it answered with HTTP status ${status || 'none'}`, unusable: true })
          if (!kind.toLowerCase().startsWith(MEDIA_TYPE))
            return done({
              failed: `it answered with ${kind || 'no type'} instead of ${MEDIA_TYPE}`,
              unusable: true,
            })
          const reply = replyOf(Buffer.concat(chunks), query)
          done(reply ? aged(reply, age) : { failed: 'the reply answers a different query', garbled: true })
        })
        if (post) request.end(query.query)
        else request.end()
      } catch (error) {
        failed(error)
      }
    })
  }

  close(): void {
    this.closed = true
    this.session?.destroy()
    this.session = undefined
  }

  private open(): ClientHttp2Session {
    const { address: host, port, secured } = this.end
    const name = secured.name ?? host
    const authority = `https://${isIP(name) === 6 ? `[${name}]` : name}:${port}`
    const session = connectHttp2(authority, {
      createConnection: () =>
        secured.connect({
          host,
          port,
          ALPNProtocols: ['h2'],
          minVersion: 'TLSv1.2',
          ca: secured.authority,
          ...(isIP(name) ? {} : { servername: name }),
        }),
    })
    session.setMaxListeners(0)
    session.on('error', () => session.destroy())
    session.on('close', () => {
      if (this.session === session) this.session = undefined
    })
    return session
  }
}

/** An answer that a cache of HTTP kept for so many seconds: its TTLs are that much lower (RFC 8484 §5.1). */
function aged(reply: Reply, age: number): Reply {
  if (age === 0 || !('message' in reply)) return reply
  const older = (records: readonly MessageRecord[]): MessageRecord[] =>
    records.map((record) => ({ ...record, ttl: Math.max(0, record.ttl - age) }))
  const { message } = reply
  return { message: { ...message, answers: older(message.answers), authority: older(message.authority) } }
}

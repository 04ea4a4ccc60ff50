/** Asking over TLS and HTTPS, against servers of Node's own with certificates made on the spot. */

import { createSecureServer, type Http2SecureServer } from 'node:http2'
import { createServer, type TLSSocket } from 'node:tls'
import { afterEach, beforeAll, describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import type { Vantage } from '../../src/core/confirm/observation.ts'
import { decodeMessage } from '../../src/core/message/decode.ts'
import { encodeMessage } from '../../src/core/message/encode.ts'
import type { Message } from '../../src/core/message/message.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { Asker } from '../../src/net/ask.ts'
import { respond } from '../../src/serve/respond.ts'
import { type Certificates, certificates } from '../certificates.ts'
import { mayskip } from '../servers/servers.ts'

const zones = exampleZones('mail A 192.0.2.25')
const answered = (octets: Uint8Array): Buffer =>
  Buffer.from(encodeMessage(respond(zones, decodeMessage(octets), 0) as Message))

let made: Certificates
beforeAll(() => {
  if (!mayskip('openssl')) made = certificates('dns.larkpost.example')
})
const open: { close(): unknown }[] = []
afterEach(() => {
  for (const each of open.splice(0)) each.close()
})
const asker = (vantage: Partial<Vantage> & { port: number }): Asker => {
  const one = new Asker(
    { label: 'v', address: '127.0.0.1', name: 'dns.larkpost.example', authority: made.authority, ...vantage },
    CLOCK,
    { limitMs: 2000 },
  )
  open.push(one)
  return one
}

/** DNS over TLS: answers in the order asked, and closes after so many. */
async function overTls(closeAfter = 1000): Promise<{ port: number; connections(): number }> {
  let connections = 0
  const sockets = new Set<TLSSocket>()
  const server = createServer({ key: made.key, cert: made.certificate, ALPNProtocols: ['dot'] }, (socket) => {
    connections++
    sockets.add(socket)
    socket.on('error', () => {})
    let received = Buffer.alloc(0)
    let count = 0
    socket.on('data', (chunk) => {
      received = Buffer.concat([received, chunk])
      while (received.length >= 2 && received.length >= 2 + received.readUInt16BE(0)) {
        const end = 2 + received.readUInt16BE(0)
        const reply = answered(received.subarray(2, end))
        received = received.subarray(end)
        const length = Buffer.alloc(2)
        length.writeUInt16BE(reply.length)
        if (count++ < closeAfter) socket.write(Buffer.concat([length, reply]))
        if (count === closeAfter) socket.end()
      }
    })
  })
  server.on('tlsClientError', () => {})
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  open.push({ close: () => [server.close(), ...[...sockets].map((each) => each.destroy())] })
  return { port: (server.address() as { port: number }).port, connections: () => connections }
}

async function overHttps(
  status = 200,
  kind = 'application/dns-message',
  age?: number,
): Promise<{ port: number; requests: string[] }> {
  const requests: string[] = []
  const server: Http2SecureServer = createSecureServer(
    { key: made.key, cert: made.certificate },
    async (request, response) => {
      requests.push(`${request.method} ${request.url}`)
      const chunks: Buffer[] = []
      for await (const chunk of request) chunks.push(chunk)
      const question =
        request.method === 'POST'
          ? Buffer.concat(chunks)
          : Buffer.from(new URL(request.url, 'https://x').searchParams.get('dns')!, 'base64url')
      if (age !== undefined) response.setHeader('age', age)
      response.writeHead(status, { 'content-type': kind })
      response.end(answered(question))
    },
  )
  const sessions = new Set<{ destroy(): void }>()
  server.on('session', (session) => sessions.add(session))
  server.on('sessionError', () => {})
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  open.push({ close: () => [server.close(), ...[...sessions].map((each) => each.destroy())] })
  return { port: (server.address() as { port: number }).port, requests }
}

describe.skipIf(mayskip('openssl'))('over TLS', () => {
  test('many questions over one connection; a connection that is closed is made anew', async () => {
    const server = await overTls()
    const one = asker({ transport: 'tls', port: server.port })
    const all = await Promise.all(Array.from({ length: 50 }, () => one.ask('mail.hollowmere.example.', 1)))
    expect(all.every(({ message, transport }) => message?.answers.length === 1 && transport === 'tls')).toBe(true)
    expect(server.connections()).toBe(1)
    const shy = await overTls(1)
    const other = asker({ transport: 'tls', port: shy.port })
    for (let i = 0; i < 3; i++)
      expect((await other.ask('mail.hollowmere.example.', 1)).message?.answers).toHaveLength(1)
    expect(shy.connections()).toBe(3)
  })

  test.each<[string, Partial<Vantage>, string]>([
    ['for another name', { name: 'dns.northlight.example' }, 'its certificate is for another name'],
    ['without a name it must be for the address', { name: undefined }, 'its certificate is for another name'],
    ['vouched for by nobody', { authority: undefined }, 'its certificate is not signed by a trusted authority'],
  ])('a certificate %s is refused', async (_what, vantage, why) => {
    const { port } = await overTls()
    expect((await asker({ transport: 'tls', port, ...vantage }).ask('mail.hollowmere.example.', 1)).trouble).toEqual({
      kind: 'no-reply',
      detail: why,
    })
  })

  test('an authority file that is not there but a port that is closed', async () => {
    const { port } = await overTls()
    expect(
      (await asker({ transport: 'tls', port, authority: '/nowhere.pem' }).ask('a.example.', 1)).trouble?.kind,
    ).toBe('no-reply')
    open.splice(0).forEach((each) => void each.close())
    expect((await asker({ transport: 'tls', port }).ask('a.example.', 1)).trouble?.detail).toBe('the port is closed')
  })
})

describe.skipIf(mayskip('openssl'))('over HTTPS', () => {
  test.each(['post', 'get'] as const)('by %s, many questions over one connection', async (method) => {
    const server = await overHttps()
    const one = asker({ transport: 'https', port: server.port, path: '/dns-query', method })
    const all = await Promise.all(Array.from({ length: 20 }, () => one.ask('mail.hollowmere.example.', 1)))
    expect(all.every(({ message }) => message?.answers.length === 1)).toBe(true)
    // An id of zero, so that the question is the same for caches on the way.
    expect(new Set(server.requests).size).toBe(1)
    expect(server.requests[0]).toMatch(method === 'post' ? /^POST \/dns-query$/ : /^GET \/dns-query\?dns=AAA/)
  })

  test.each([
    [404, 'application/dns-message', 'unusable', 'it answered with HTTP status 404'],
    [200, 'text/html', 'unusable', 'it answered with text/html instead of application/dns-message'],
  ] as const)('status %d, %s', async (status, kind, trouble, detail) => {
    const { port } = await overHttps(status, kind)
    expect((await asker({ transport: 'https', port }).ask('a.example.', 1)).trouble).toEqual({ kind: trouble, detail })
  })

  test('how long a cache of HTTP kept an answer is taken off its TTLs (RFC 8484 §5.1)', async () => {
    for (const [age, ttl] of [
      [undefined, 3600],
      [600, 3000],
      [9999, 0],
    ] as const) {
      const { port } = await overHttps(200, undefined, age)
      const { message } = await asker({ transport: 'https', port }).ask('mail.hollowmere.example.', 1)
      expect(message?.answers[0]?.ttl).toBe(ttl)
    }
  })

  test('a certificate for another name is refused', async () => {
    const { port } = await overHttps()
    const { trouble } = await asker({ transport: 'https', port, name: 'dns.northlight.example' }).ask('a.example.', 1)
    expect(trouble).toEqual({ kind: 'no-reply', detail: 'its certificate is for another name' })
  })
})

import { createSocket } from 'node:dgram'
import { Resolver } from 'node:dns/promises'
import { networkInterfaces } from 'node:os'
import { afterEach, describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { parseVantage } from '../../src/core/confirm/vantage.ts'
import type { Garbled } from '../../src/core/message/decode.ts'
import { emptyMessage, type Message } from '../../src/core/message/message.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { Asker } from '../../src/net/ask.ts'
import { respond } from '../../src/serve/respond.ts'
import { type Responder, type Served, serve as served } from '../../src/serve/sockets.ts'
import { Network, serveNetwork } from '../../src/sim/network.ts'

const zones = exampleZones(`@ MX 10 mail
mail A 192.0.2.25
mail AAAA 2001:db8::25
www CNAME mail
_imaps._tcp SRV 0 1 993 mail
@ TXT "one; two" "three"
10 PTR mail
isle NS ns1.isle
ns1.isle A 192.0.2.53
big TXT ${Array.from({ length: 30 }, (_, i) => `"${String(i).padStart(80, '.')}"`).join(' ')}`)
const honest = (query: Message | Garbled, id: number) => respond(zones, query, id)

const open: { close(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.close()
})
async function serve(responder: Responder, options?: Parameters<typeof served>[1]): Promise<Served> {
  const server = await served(responder, options)
  open.push(server)
  return server
}
function asker({ address, port }: { address: string; port: number }, limitMs = 3000): Asker {
  const made = new Asker({ label: 'v', address, port }, CLOCK, { limitMs, firstWaitMs: 150 })
  open.push(made)
  return made
}

describe('asking', () => {
  test('one question, one answer', async () => {
    const { message, transport } = await asker(await serve(honest)).ask('hollowmere.example.', 15)
    expect([transport, message?.authoritative, message?.answers.length, message?.additional.length]).toEqual([
      'udp',
      true,
      1,
      2,
    ])
  })

  test('a thousand questions at once all get their own answer', async () => {
    const server = await serve((query) =>
      'garbled' in query
        ? undefined
        : {
            ...emptyMessage(query.id),
            response: true,
            questions: query.questions,
            rcode: Number(query.questions[0]!.name.split('.')[0]) % 2 ? 3 : 0,
          },
    )
    const one = asker(server)
    const rcodes = await Promise.all(Array.from({ length: 1000 }, (_, i) => one.ask(`${i}.example.`, 1)))
    expect(rcodes.every(({ message }, i) => message?.rcode === (i % 2 ? 3 : 0))).toBe(true)
  })

  test('cut short by UDP, whole by TCP', async () => {
    const server = await serve(honest)
    const { message, transport } = await asker(server).ask('big.hollowmere.example.', 16)
    expect([transport, message?.answers.length, server.asked]).toEqual(['tcp', 1, { udp: 1, tcp: 1 }])
  })

  test.skipIf(
    !Object.values(networkInterfaces())
      .flat()
      .some((each) => each?.address === '::1'),
  )('over IPv6, by UDP and by TCP', async () => {
    const server = await serve(honest, { address: '::1' })
    expect((await asker(server).ask('mail.hollowmere.example.', 1)).message?.answers).toHaveLength(1)
    expect((await asker(server).ask('big.hollowmere.example.', 16)).transport).toBe('tcp')
  })

  test('silent by UDP, answering by TCP', async () => {
    const { message, transport } = await asker(await serve(honest, { udp: false })).ask('mail.hollowmere.example.', 1)
    expect([transport, message?.answers.length]).toEqual(['tcp', 1])
  })

  test('a closed port, and one that never answers', async () => {
    const server = await serve(honest)
    await server.close()
    open.pop()
    expect((await asker(server, 800).ask('a.example.', 1)).trouble).toEqual({
      kind: 'no-reply',
      detail: 'UDP: the port is closed; TCP: the port is closed',
    })
    const mute = await serve(() => undefined)
    const { trouble, tookMs } = await asker(mute, 800).ask('a.example.', 1)
    expect(trouble?.detail).toBe('UDP: no reply; TCP: no reply')
    expect(tookMs).toBeLessThan(5000)
  })

  test('a slow server: an answer to an earlier try counts, and so does one that comes late', async () => {
    for (const latency of [400, 2200]) {
      const server = await serve(honest, { latencyMs: () => latency })
      const { message, transport, tookMs } = await asker(server).ask('mail.hollowmere.example.', 1)
      expect([transport, message?.answers.length]).toEqual(['udp', 1])
      expect(tookMs).toBeLessThan(latency + 350)
    }
  })

  test('one that refuses EDNS, or drops what has it, is asked plainly, SOA included, and that is remembered', async () => {
    for (const drops of [false, true]) {
      let withEdns = 0
      const server = await serve((query, id) => {
        if ('garbled' in query || !query.edns) return honest(query, id)
        withEdns++
        return drops ? undefined : { ...emptyMessage(id), response: true, questions: query.questions, rcode: 1 }
      })
      const one = asker(server)
      for (const [name, type] of [
        ['hollowmere.example.', 6],
        ['mail.hollowmere.example.', 1],
        ['hollowmere.example.', 15],
        ['mail.hollowmere.example.', 28],
        ['hollowmere.example.', 2],
      ] as const) {
        const { message, plain } = await one.ask(name, type)
        expect([message?.rcode, message?.answers.length, plain]).toEqual([0, expect.any(Number), true])
      }
      expect(withEdns).toBe(3)
    }
    // Looks alike and is not: one that knows EDNS, and lost a question.
    let lost = false
    const server = await serve((query, id) => {
      if (lost) return honest(query, id)
      lost = true
      return undefined
    })
    const one = asker(server)
    await one.ask('mail.hollowmere.example.', 1)
    expect((await one.ask('mail.hollowmere.example.', 1)).plain).toBeUndefined()
  })

  test('one that closes each connection after an answer gets as many as it takes', async () => {
    const server = await serve(
      (query, id, udp) => (udp ? { ...honest(query, id)!, truncated: true } : honest(query, id)),
      {
        closes: true,
      },
    )
    const one = asker(server)
    const came = await Promise.all(Array.from({ length: 100 }, () => one.ask('big.hollowmere.example.', 16)))
    expect(came.filter(({ message }) => message?.answers.length === 1)).toHaveLength(100)
  })

  test('a type that is dropped on the way does not condemn the others', async () => {
    const server = await serve((query, id) =>
      'garbled' in query || query.questions[0]!.type === 33 ? undefined : honest(query, id),
    )
    const one = asker(server, 400)
    expect((await one.ask('mail.hollowmere.example.', 1)).message).toBeDefined()
    await Promise.all(Array.from({ length: 14 }, () => one.ask('_imaps._tcp.hollowmere.example.', 33)))
    expect((await one.ask('_imaps._tcp.hollowmere.example.', 33)).trouble?.detail).toContain('queries for SRV')
    expect((await one.ask('mail.hollowmere.example.', 1)).message).toBeDefined()
  })

  test.each<[string, (m: Message) => Message]>([
    ['another id', (m) => ({ ...m, id: m.id ^ 1 })],
    ['another question', (m) => ({ ...m, questions: [{ ...m.questions[0]!, name: 'other.example.' }] })],
    ['a question instead of an answer', (m) => ({ ...m, response: false })],
  ])('an answer with %s is passed over', async (_what, falsify) => {
    let first = true
    const server = await serve((query, id) => {
      const answer = honest(query, id)!
      if (!first) return answer
      first = false
      return falsify({ ...answer, answers: [] })
    })
    const { message } = await asker(server).ask('mail.hollowmere.example.', 1)
    expect(message?.answers).toHaveLength(1)
    expect(server.asked.udp).toBe(2)
  })

  test('an answer from another port is never seen', async () => {
    const stranger = createSocket('udp4')
    open.push({ close: () => new Promise<void>((resolve) => stranger.close(() => resolve())) })
    const server = createSocket('udp4')
    open.push({ close: () => new Promise<void>((resolve) => server.close(() => resolve())) })
    let heard = 0
    server.on('message', (octets, from) => {
      heard++
      stranger.send(
        Buffer.concat([octets.subarray(0, 2), Buffer.from([0x84, 0]), octets.subarray(4)]),
        from.port,
        from.address,
      )
    })
    await new Promise<void>((resolve) => server.bind(0, '127.0.0.1', resolve))
    const { message } = await asker({ address: '127.0.0.1', port: server.address().port }, 700).ask('a.example.', 1)
    expect([message, heard > 0]).toEqual([undefined, true])
  })

  test.each([
    ['192.0.2.1', { address: '192.0.2.1', port: 53 }],
    ['192.0.2.1:5300', { address: '192.0.2.1', port: 5300 }],
    ['2001:db8::1', { address: '2001:db8::1', port: 53 }],
    ['[2001:db8::1]:5300', { address: '2001:db8::1', port: 5300 }],
    ['ns1.upland-dns.example', undefined],
    ['192.0.2.1:0', undefined],
    ['192.0.2.1:x', undefined],
  ])('a vantage from %s', (text, expected) =>
    expected ? expect(parseVantage(text)).toMatchObject(expected) : expect(parseVantage(text)).toBeUndefined(),
  )
})

test('a client that nobody here wrote understands every answer of the stand-in', async () => {
  const { port } = await serve(honest)
  const client = new Resolver({ timeout: 2000, tries: 2 })
  client.setServers([`127.0.0.1:${port}`])
  expect(await client.resolveMx('hollowmere.example')).toEqual([{ priority: 10, exchange: 'mail.hollowmere.example' }])
  expect(await client.resolve4('www.hollowmere.example', { ttl: true })).toEqual([{ address: '192.0.2.25', ttl: 3600 }])
  expect(await client.resolve6('mail.hollowmere.example')).toEqual(['2001:db8::25'])
  expect(await client.resolveCname('www.hollowmere.example')).toEqual(['mail.hollowmere.example'])
  expect(await client.resolveSrv('_imaps._tcp.hollowmere.example')).toEqual([
    { priority: 0, weight: 1, port: 993, name: 'mail.hollowmere.example' },
  ])
  expect(await client.resolveTxt('hollowmere.example')).toEqual([['one; two', 'three']])
  expect((await client.resolveTxt('big.hollowmere.example'))[0]).toHaveLength(30)
  expect(await client.resolvePtr('10.hollowmere.example')).toEqual(['mail.hollowmere.example'])
  expect((await client.resolveNs('hollowmere.example')).sort()).toEqual([
    'ns1.upland-dns.example',
    'ns2.upland-dns.example',
  ])
  expect(await client.resolveSoa('hollowmere.example')).toMatchObject({
    nsname: 'ns1.upland-dns.example',
    serial: 2026112301,
    minttl: 3600,
  })
  await expect(client.resolve4('nothing.hollowmere.example')).rejects.toMatchObject({ code: 'ENOTFOUND' })
  await expect(client.resolve4('hollowmere.example')).rejects.toMatchObject({ code: 'ENODATA' })
  await expect(client.resolve4('elsewhere.example')).rejects.toMatchObject({ code: 'EREFUSED' })
})

test('the stand-in resolver repeats what it was told until that has run out', async () => {
  let seconds = 0
  const network = new Network(() => seconds)
  network.server('192.0.2.53', zones)
  network.resolver('192.0.2.3', ['192.0.2.53'])
  const served = await serveNetwork(network)
  open.push(served)
  const one = asker(served.ports.get('192.0.2.3')!)
  const ask = async () => (await one.ask('mail.hollowmere.example.', 1)).message!
  expect(await ask()).toMatchObject({ authoritative: false, recursionAvailable: true, answers: [{ ttl: 3600 }] })
  network.server('192.0.2.53', exampleZones('mail A 192.0.2.66'))
  seconds = 3000
  expect((await ask()).answers[0]).toMatchObject({ ttl: 600, data: new Uint8Array([192, 0, 2, 25]) })
  seconds = 3600
  expect((await ask()).answers[0]).toMatchObject({ ttl: 3600, data: new Uint8Array([192, 0, 2, 66]) })
})

test('what ails a stand-in: everything cut short by UDP, silence there, forged answers in front, slowness, a cap and a floor', async () => {
  let seconds = 0
  const network = new Network(() => seconds)
  network.server('192.0.2.53', zones)
  network.resolver('192.0.2.3', ['192.0.2.53'], { cap: 600 })
  network.resolver('192.0.2.4', ['192.0.2.53'], { floor: 7200 })
  const served = await serveNetwork(network)
  open.push(served)
  const at = (address: string): Asker => asker(served.ports.get(address)!)
  const [server, capped, floored] = [at('192.0.2.53'), at('192.0.2.3'), at('192.0.2.4')]
  for (const [faults, transport] of [
    [{ truncates: true }, 'tcp'],
    [{ silent: 'udp' }, 'tcp'],
    [{ forgedBefore: true }, 'udp'],
    [{ latencyMs: 40 }, 'udp'],
  ] as const) {
    network.ails('192.0.2.53', faults)
    const seen = await server.ask('mail.hollowmere.example.', 1)
    expect([seen.transport, seen.message?.answers[0]?.data]).toEqual([transport, new Uint8Array([192, 0, 2, 25])])
    if ('latencyMs' in faults) expect(seen.tookMs).toBeGreaterThan(35)
  }
  network.ails('192.0.2.53', {})
  const ttls = async () =>
    Promise.all(
      [capped, floored].map(async (each) => (await each.ask('mail.hollowmere.example.', 1)).message!.answers[0]!.ttl),
    )
  expect(await ttls()).toEqual([600, 7200])
  seconds = 500
  expect(await ttls()).toEqual([100, 6700])
  seconds = 601
  expect(await ttls()).toEqual([600, 6599])
})

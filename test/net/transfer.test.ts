import { createServer, type Server } from 'node:net'
import { afterEach, describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { decodeMessage } from '../../src/core/message/decode.ts'
import { encodeMessage } from '../../src/core/message/encode.ts'
import { emptyMessage, type Message, type MessageRecord } from '../../src/core/message/message.ts'
import { nameToWire } from '../../src/core/names/name.ts'
import { parseRdata } from '../../src/core/records/rdata.ts'
import { parseType } from '../../src/core/records/types.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { transferZone } from '../../src/index.ts'
import { Asker } from '../../src/net/ask.ts'
import { framed } from '../../src/net/ways/way.ts'
import { respond, udpLimit } from '../../src/serve/respond.ts'
import { answering, serve } from '../../src/serve/sockets.ts'

const servers: Server[] = []
afterEach(() => {
  for (const server of servers.splice(0)) server.close()
})

const record = (owner: string, type: string, text: string): MessageRecord => {
  const parsed = parseRdata(parseType(type)!, text, nameToWire('.') as Uint8Array)
  return { owner, type: parseType(type)!, class: 1, ttl: 60, data: (parsed as { wire: Uint8Array }).wire }
}
const SOA = record('a.example.', 'SOA', 'ns.a.example. b.example. 1 2 3 4 5')
const HOST = record('www.a.example.', 'A', '192.0.2.1')

/** A server that answers every transfer with these messages, then closes. */
async function sender(answers: (Partial<Message> | Uint8Array)[]): Promise<number> {
  const server = createServer((socket) => {
    socket.on('error', () => {})
    socket.on('data', (query) => {
      for (const answer of answers)
        socket.write(
          framed(
            answer instanceof Uint8Array
              ? answer
              : encodeMessage({ ...emptyMessage(query.readUInt16BE(2)), response: true, ...answer }),
          ),
        )
      socket.end()
    })
  })
  servers.push(server)
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return (server.address() as { port: number }).port
}
const transfer = async (answers: (Partial<Message> | Uint8Array)[]) =>
  transferZone({ label: 'v', address: '127.0.0.1', port: await sender(answers) }, 'a.example.', 2000)

describe('a zone transfer', () => {
  test.each<[string, Partial<Message>[]]>([
    ['in one message', [{ answers: [SOA, HOST, SOA] }]],
    ['in several', [{ answers: [SOA] }, { answers: [HOST] }, { answers: [SOA] }]],
  ])('%s', async (_what, answers) => expect(await transfer(answers)).toEqual({ records: [SOA, HOST] }))

  test.each<[string, (Partial<Message> | Uint8Array)[], RegExp]>([
    ['that is refused', [{ rcode: 5 }], /it answered REFUSED/],
    ['that ends too early', [{ answers: [SOA, HOST] }], /closed before the end/],
    ['that begins with something else', [{ answers: [HOST, SOA] }], /does not begin with the zone’s SOA/],
    ['with another id', [{ id: 70_000 % 65_536, answers: [SOA, SOA] }], /does not answer this query|closed/],
    ['of an empty answer', [{}], /answer was empty/],
    ['that cannot be read', [new Uint8Array([1, 2, 3])], /cannot be decoded: shorter than a header/],
  ])('%s says so', async (_what, answers, why) =>
    expect(await transfer(answers)).toEqual({ failed: expect.stringMatching(why) }),
  )

  test('of nobody', async () =>
    expect(await transferZone({ label: 'v', address: '127.0.0.1', port: 1 }, 'a.example.', 500)).toEqual({
      failed: 'the port is closed',
    }))
})

describe('serving zones on sockets', () => {
  const hosts = Array.from({ length: 3000 }, (_, i) => `h${i} TXT "${'x'.repeat(60)}"`)
  const zones = exampleZones(
    `${hosts.join('\n')}\n${Array.from({ length: 40 }, (_, i) => `many A 192.0.2.${i}`).join('\n')}`,
  )

  test('a zone is handed over whole, in several messages; one that is not there is refused', async () => {
    const { address, port, close } = await serve(answering(zones))
    const vantage = { label: 'v', address, port }
    const whole = await transferZone(vantage, 'Hollowmere.example.', 2000)
    expect('records' in whole && whole.records.length).toBe(zones.count)
    expect(await transferZone(vantage, 'other.example.', 2000)).toEqual({
      failed: expect.stringMatching(/^it answered REFUSED/),
    })
    await close()
  })

  test('what is too long for UDP is cut short there but whole over TCP; EDNS lets more through', async () => {
    const { address, port, close, asked } = await serve(answering(zones))
    const asker = new Asker({ label: 'v', address, port }, CLOCK)
    const plain = await asker.ask('many.hollowmere.example.', 1, { plain: true })
    expect([plain.transport, plain.message?.answers.length, asked.tcp]).toEqual(['tcp', 40, 1])
    const edns = await asker.ask('many.hollowmere.example.', 1)
    expect([edns.transport, edns.message?.answers.length]).toEqual(['udp', 40])
    asker.close()
    await close()
  })
})

describe('a server answers as the standards have it', () => {
  const zones = exampleZones('www A 192.0.2.1')
  const ask = (message: Partial<Message>): Message | undefined =>
    respond(
      zones,
      { ...emptyMessage(7), questions: [{ name: 'www.hollowmere.example.', type: 1, class: 1 }], ...message },
      7,
    )
  test.each<[string, Partial<Message>, object]>([
    ['a question', {}, { id: 7, response: true, authoritative: true, rcode: 0, recursionAvailable: false }],
    [
      'EDNS is answered by EDNS',
      { edns: { size: 4096, dnssecOk: true, options: [] } },
      { edns: { size: 1232, dnssecOk: true } },
    ],
    ['an update', { opcode: 5 }, { rcode: 4 }],
    ['two questions', { questions: [] }, { rcode: 1 }],
    ['another class', { questions: [{ name: 'www.hollowmere.example.', type: 1, class: 3 }] }, { rcode: 5 }],
    ['ANY', { questions: [{ name: 'www.hollowmere.example.', type: 255, class: 1 }] }, { rcode: 5 }],
    ['a transfer', { questions: [{ name: 'hollowmere.example.', type: 252, class: 1 }] }, { rcode: 5 }],
  ])('%s', (_what, message, expected) => expect(ask(message)).toMatchObject(expected))

  test('a response is not answered, and what cannot be read is answered with FORMERR', () => {
    expect(ask({ response: true })).toBeUndefined()
    expect(respond(zones, decodeMessage(new Uint8Array(3)), 9)).toMatchObject({ id: 9, rcode: 1 })
    expect(udpLimit({ garbled: '' })).toBe(512)
    expect(
      [0, 512, 1000, 4096].map((size) =>
        udpLimit({ ...emptyMessage(1), edns: { size, dnssecOk: false, options: [] } }),
      ),
    ).toEqual([512, 512, 1000, 1232])
  })

  test('a denial is kept for the lesser of the SOA record’s TTL and its minimum', () => {
    const short = exampleZones({
      whole: true,
      zones: { 'hollowmere.example': '@ 900 SOA a. b. 1 2 3 4 60\n@ 900 NS a.\n' },
    })
    const denial = respond(
      short,
      { ...emptyMessage(1), questions: [{ name: 'gone.hollowmere.example.', type: 1, class: 1 }] },
      1,
    )!
    expect([denial.rcode, denial.authority[0]!.ttl]).toEqual([3, 60])
  })
})

/** Servers that hand a zone over wrongly: cut short, changed, unsigned, endless, drop by drop. Signatures are made here, by RFC 8945 alone. */
import { createHmac } from 'node:crypto'
import { createServer, type Socket } from 'node:net'
import fc from 'fast-check'
import { afterEach, describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { encodeMessage } from '../../src/core/message/encode.ts'
import type { Key } from '../../src/core/message/key.ts'
import { emptyMessage, type MessageRecord } from '../../src/core/message/message.ts'
import { SignedResponse } from '../../src/core/message/tsig.ts'
import { nameToWire } from '../../src/core/names/name.ts'
import { parseRdata } from '../../src/core/records/rdata.ts'
import { parseType } from '../../src/core/records/types.ts'
import { fetchZone } from '../../src/net/transfer.ts'

const closing: (() => void)[] = []
afterEach(() => {
  for (const close of closing.splice(0)) close()
})

const record = (owner: string, type: string, text: string): MessageRecord => {
  const parsed = parseRdata(parseType(type)!, text, nameToWire('.') as Uint8Array)
  return { owner, type: parseType(type)!, class: 1, ttl: 60, data: (parsed as { wire: Uint8Array }).wire }
}
const soaOf = (serial: number) => record('a.example.', 'SOA', `ns.a.example. b.example. ${serial} 2 3 4 5`)
const SOA = soaOf(1)
const HOSTS = [1, 2, 3, 4].map((n) => record(`h${n}.a.example.`, 'A', `192.0.2.${n}`))

const KEY: Key = { name: 'k.example.', algorithm: 'hmac-sha256', secret: new Uint8Array(32).fill(7) }
const u16 = (n: number): Buffer => Buffer.from([n >> 8, n & 255])
const u48 = (n: number): Buffer =>
  Buffer.concat([u16(Math.floor(n / 2 ** 32)), u16((n >>> 16) & 0xffff), u16(n & 0xffff)])
const KEY_WIRE = Buffer.from('\x01k\x07example\x00', 'latin1')
const ALGORITHM_WIRE = Buffer.from('\x0bhmac-sha256\x00', 'latin1')

/** Signs the responses to one query, one after another. */
class Signing {
  private before: Buffer
  private first = true
  private unsigned: Buffer[] = []
  constructor(query: Buffer) {
    // The query's MAC has 32 octets, in front of original id, error and the length of nothing.
    this.before = query.subarray(query.length - 38, query.length - 6)
  }
  leave(octets: Buffer): Buffer {
    this.unsigned.push(octets)
    return octets
  }
  sign(octets: Buffer, now = Math.floor(Date.now() / 1000)): Buffer {
    const timers = Buffer.concat([u48(now), u16(300)])
    const variables = Buffer.concat([KEY_WIRE, u16(255), u16(0), u16(0), ALGORITHM_WIRE, timers, u16(0), u16(0)])
    const mac = createHmac('sha256', KEY.secret)
      .update(
        Buffer.concat([
          u16(this.before.length),
          this.before,
          ...this.unsigned,
          octets,
          this.first ? variables : timers,
        ]),
      )
      .digest()
    const data = Buffer.concat([ALGORITHM_WIRE, timers, u16(32), mac, octets.subarray(0, 2), u16(0), u16(0)])
    const signed = Buffer.concat([octets, KEY_WIRE, u16(250), u16(255), u16(0), u16(0), u16(data.length), data])
    signed.writeUInt16BE(signed.readUInt16BE(10) + 1, 10)
    this.before = mac
    this.first = false
    this.unsigned = []
    return signed
  }
}

type Answer = (answers: MessageRecord[]) => Buffer
/** Fetches from a server that does this with each query. */
async function fetched(
  serve: (send: (octets: Buffer) => void, message: Answer, signing: Signing, socket: Socket) => unknown,
  { key, limitMs = 3000 }: { key?: Key; limitMs?: number } = {},
) {
  const server = createServer((socket) => {
    closing.push(() => socket.destroy())
    socket.on('error', () => {})
    socket.once('data', (framed) => {
      const query = framed.subarray(2)
      const message: Answer = (answers) =>
        Buffer.from(encodeMessage({ ...emptyMessage(query.readUInt16BE(0)), response: true, answers }))
      const send = (octets: Buffer) => void socket.write(Buffer.concat([u16(octets.length), octets]))
      serve(send, message, new Signing(query), socket)
    })
  })
  closing.push(() => server.close())
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as { port: number }
  const taken: MessageRecord[] = []
  const take = (records: readonly MessageRecord[]) => void taken.push(...records)
  const result = await fetchZone({ label: 'v', address: '127.0.0.1', port }, 'a.example.', {
    clock: CLOCK,
    limitMs,
    key,
    take,
  })
  return { result, taken }
}

describe('a signed transfer', () => {
  test.each<[string, (send: (octets: Buffer) => void, message: Answer, signing: Signing) => void]>([
    [
      'each message signed',
      (send, message, signing) => {
        send(signing.sign(message([SOA, HOSTS[0]!])))
        send(signing.sign(message([HOSTS[1]!])))
        send(signing.sign(message([HOSTS[2]!, HOSTS[3]!, SOA])))
      },
    ],
    [
      'two in the middle covered by the next',
      (send, message, signing) => {
        send(signing.sign(message([SOA, HOSTS[0]!])))
        send(signing.leave(message([HOSTS[1]!])))
        send(signing.leave(message([HOSTS[2]!])))
        send(signing.sign(message([HOSTS[3]!, SOA])))
      },
    ],
  ])('%s is whole', async (_what, serve) => {
    const { result, taken } = await fetched(serve, { key: KEY })
    expect(result).toEqual({ serial: 1, records: 5 })
    expect(taken).toEqual([SOA, ...HOSTS])
  })

  test.each<[string, (send: (octets: Buffer) => void, message: Answer, signing: Signing) => void, RegExp]>([
    ['not signed at all', (send, message) => send(message([SOA, ...HOSTS, SOA])), /not signed, although the query was/],
    [
      'with a message put in between',
      (send, message, signing) => {
        send(signing.sign(message([SOA, HOSTS[0]!])))
        send(message([record('evil.a.example.', 'A', '192.0.2.66')]))
        send(signing.sign(message([HOSTS[1]!, SOA])))
      },
      /does not match/,
    ],
    [
      'with a message taken out',
      (send, message, signing) => {
        send(signing.sign(message([SOA, HOSTS[0]!])))
        signing.sign(message([HOSTS[1]!]))
        send(signing.sign(message([HOSTS[2]!, SOA])))
      },
      /does not match/,
    ],
    [
      'with an octet changed',
      (send, message, signing) => {
        const octets = signing.sign(message([SOA, HOSTS[0]!, SOA]))
        octets[octets.indexOf(Buffer.from([192, 0, 2, 1])) + 3] = 66
        send(octets)
      },
      /does not match/,
    ],
    [
      'whose end is not signed',
      (send, message, signing) => {
        send(signing.sign(message([SOA, HOSTS[0]!])))
        send(message([HOSTS[1]!, SOA]))
      },
      /last message is not signed/,
    ],
    [
      'of an hour ago',
      (send, message, signing) => send(signing.sign(message([SOA, SOA]), Math.floor(Date.now() / 1000) - 3600)),
      /BADTIME.*36\d\d seconds behind/,
    ],
    [
      'with over 99 messages unsigned',
      (send, message, signing) => {
        send(signing.sign(message([SOA])))
        for (let i = 0; i < 100; i++) send(signing.leave(message([HOSTS[0]!])))
        send(signing.sign(message([SOA])))
      },
      /more than 99 messages/,
    ],
  ])('%s is not', async (_what, serve, why) =>
    expect((await fetched(serve, { key: KEY })).result).toMatchObject({ failed: expect.stringMatching(why) }),
  )
})

test('whatever comes as a signed message, it is refused and nothing is thrown', () =>
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 200 }), fc.nat({ max: 3 }), (octets, additional) => {
      if (octets.length > 11) octets[11] = additional
      expect(new SignedResponse(KEY, new Uint8Array(32)).take(octets, 0)).toBeDefined()
    }),
  ))

describe('a transfer', () => {
  test.each<
    [string, (send: (octets: Buffer) => void, message: Answer, signing: Signing, socket: Socket) => unknown, RegExp]
  >([
    [
      'with another serial at the end',
      (send, message) => send(message([SOA, ...HOSTS, soaOf(2)])),
      /closing SOA record has serial 2/,
    ],
    ['that goes on behind the end', (send, message) => send(message([SOA, SOA, HOSTS[0]!])), /follow the closing SOA/],
    [
      'with a record of another zone',
      (send, message) => send(message([SOA, record('b.example.', 'A', '192.0.2.1'), SOA])),
      /b\.example, which is not in the zone/,
    ],
    [
      'cut in the middle of a message',
      (_send, message, _signing, socket) => {
        const octets = message([SOA, ...HOSTS, SOA])
        socket.end(Buffer.concat([u16(octets.length), octets.subarray(0, 40)]))
      },
      /closed before the end of the transfer/,
    ],
    ['that hangs', () => {}, /nothing came within 1 s/],
    [
      'that never ends',
      (send, message, _signing, socket) => {
        send(message([SOA]))
        const more = (): void => {
          if (socket.destroyed) return
          send(message(HOSTS))
          setImmediate(more)
        }
        more()
      },
      /not complete after 1 s/,
    ],
    [
      'that comes drop by drop',
      (_send, message, _signing, socket) => {
        const octets = message([SOA, ...HOSTS, SOA])
        const drops = [...u16(octets.length), ...octets]
        const timer = setInterval(() => socket.write(Buffer.from([drops.shift() ?? 0])), 200)
        closing.push(() => clearInterval(timer))
      },
      /not complete after 1 s/,
    ],
  ])('%s ends in a clear error, in time', async (_what, serve, why) => {
    const { result } = await fetched(serve, { limitMs: 1000 })
    expect(result).toMatchObject({ failed: expect.stringMatching(why) })
  })
})

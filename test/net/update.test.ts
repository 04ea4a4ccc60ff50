/** Dynamic updates at servers that lie, hang, answer half or sign wrongly: an agreement that is not proved is none. */
import { createServer, type Socket } from 'node:net'
import { afterEach, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { encodeMessage } from '../../src/core/message/encode.ts'
import type { Key } from '../../src/core/message/key.ts'
import { emptyMessage } from '../../src/core/message/message.ts'
import { signed } from '../../src/core/message/tsig.ts'
import { updateMessages } from '../../src/core/publish/messages.ts'
import { sendUpdate } from '../../src/net/update.ts'
import { framed } from '../../src/net/ways/way.ts'

const open: { close(): unknown }[] = []
afterEach(() => {
  for (const each of open.splice(0)) each.close()
})

const KEY: Key = { name: 'upland.', algorithm: 'hmac-sha256', secret: new Uint8Array(32).fill(7) }
const [made] = updateMessages(
  'a.example.',
  [
    {
      owner: 'w.a.example.',
      sets: [
        {
          owner: 'w.a.example.',
          type: 1,
          before: { owner: 'w.a.example.', type: 1, ttl: 60, data: [new Uint8Array(4)] },
          after: { owner: 'w.a.example.', type: 1, ttl: 60, data: [new Uint8Array(4).fill(9)] },
        },
      ],
    },
  ],
  () => true,
)

const replyTo = (query: Buffer, rcode: number, id = query.readUInt16BE(2)): Uint8Array =>
  encodeMessage({ ...emptyMessage(id), response: true, opcode: 5, rcode })

/** A server of octets: what it does with a message that came. */
async function server(answers: (query: Buffer, socket: Socket) => void): Promise<number> {
  const listening = createServer((socket) => {
    socket.on('error', () => {})
    socket.once('data', (query: Buffer) => answers(query, socket))
  })
  open.push(listening)
  await new Promise<void>((done) => listening.listen(0, '127.0.0.1', done))
  return (listening.address() as { port: number }).port
}

test.each<[string, (query: Buffer, socket: Socket) => void, boolean, object]>([
  ['it agrees', (query, socket) => socket.write(framed(replyTo(query, 0))), false, { rcode: 'NOERROR' }],
  ['it refuses', (query, socket) => socket.write(framed(replyTo(query, 5))), false, { rcode: 'REFUSED' }],
  [
    'it refuses a signed one, unsigned',
    (query, socket) => socket.write(framed(replyTo(query, 5))),
    true,
    { rcode: 'REFUSED' },
  ],
  [
    'it agrees, unsigned',
    (query, socket) => socket.write(framed(replyTo(query, 0))),
    true,
    { lost: expect.stringContaining('not signed'), unreached: false },
  ],
  [
    'it agrees, signed with another secret',
    (query, socket) =>
      socket.write(
        framed(signed(replyTo(query, 0), { ...KEY, secret: new Uint8Array(32) }, Math.floor(CLOCK.now())).octets),
      ),
    true,
    { trouble: expect.objectContaining({ error: 'BADSIG' }) },
  ],
  [
    'it answers another message',
    (query, socket) => socket.write(framed(replyTo(query, 0, (query.readUInt16BE(2) + 1) & 0xffff))),
    false,
    { lost: expect.stringContaining('does not answer'), unreached: false },
  ],
  [
    'it sends the message back',
    (query, socket) => socket.write(query),
    false,
    { lost: expect.any(String), unreached: false },
  ],
  [
    'it agrees, with all of the message in it (RFC 2136 §3.8)',
    (query, socket) => {
      query[4]! |= 0x80
      socket.write(query)
    },
    false,
    { rcode: 'NOERROR' },
  ],
  [
    'it answers junk',
    (_, socket) => socket.write(framed(new Uint8Array(20).fill(255))),
    false,
    { lost: expect.any(String), unreached: false },
  ],
  [
    'it answers half',
    (query, socket) => socket.end(framed(replyTo(query, 0)).subarray(0, 9)),
    false,
    { lost: expect.stringContaining('closed'), unreached: false },
  ],
  [
    'it answers an octet at a time',
    (query, socket) => {
      const octets = framed(replyTo(query, 0))
      octets.forEach((each, i) => void setTimeout(() => socket.write(new Uint8Array([each])), i * 5))
    },
    false,
    { rcode: 'NOERROR' },
  ],
  ['it says nothing', () => {}, false, { lost: expect.stringContaining('no answer came'), unreached: false }],
  ['it hangs up', (_, socket) => socket.destroy(), false, { lost: expect.any(String), unreached: false }],
])('%s', async (_what, answers, isSigned, expected) => {
  const port = await server(answers)
  const vantage = { label: 'it', address: '127.0.0.1', port, transport: 'tcp' as const }
  const said = await sendUpdate(vantage, made!.message, {
    clock: CLOCK,
    limitMs: 800,
    ...(isSigned ? { key: KEY } : {}),
  })
  expect(said).toEqual(expected)
})

test('nobody there: nothing was sent', async () => {
  const said = await sendUpdate({ label: 'it', address: '127.0.0.1', port: 9, transport: 'tcp' }, made!.message, {
    clock: CLOCK,
    limitMs: 800,
  })
  expect(said).toMatchObject({ unreached: true })
})

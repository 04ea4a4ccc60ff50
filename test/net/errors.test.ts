/** Every place at which a socket can fail, with the system's errors injected. Nothing is sent anywhere. */

import { EventEmitter } from 'node:events'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import type { Transport } from '../../src/core/confirm/observation.ts'
import { Asker } from '../../src/net/ask.ts'

const fault = vi.hoisted(() => ({ at: '', code: '' }))
const error = (): Error => Object.assign(new Error(fault.code), { code: fault.code, syscall: fault.at })

/** A socket that does nothing but fail where it shall. */
class Fake extends EventEmitter {
  connecting = true
  setNoDelay(): void {}
  override setMaxListeners(): this {
    return this
  }
  connect(_port: number, _address: string, done: (error?: Error) => void): void {
    if (fault.at === 'connect throws') throw error()
    if (fault.at === 'connect calls back') setImmediate(() => done(error()))
    else if (fault.at === 'connect emits') setImmediate(() => this.emit('error', error()))
    else setImmediate(() => done())
  }
  send(): void {
    if (fault.at === 'send throws') throw error()
    if (fault.at === 'send emits') setImmediate(() => this.emit('error', error()))
  }
  write(): boolean {
    if (fault.at === 'send throws') throw error()
    if (fault.at === 'send emits') setImmediate(() => this.emit('error', error()))
    return true
  }
  request(): never {
    throw error()
  }
  close(): void {}
  destroy(): void {
    setImmediate(() => this.emit('close'))
  }
}

const stream = (): Fake => {
  if (fault.at === 'made' || fault.at === 'connect throws') throw error()
  const socket = new Fake()
  if (/^connect/.test(fault.at)) setImmediate(() => socket.emit('error', error()))
  else setImmediate(() => socket.emit('connect') && socket.emit('secureConnect'))
  socket.once('connect', () => socket.emit('secureConnect'))
  return socket
}
vi.mock('node:dgram', () => ({
  createSocket: () => {
    if (fault.at === 'made') throw error()
    return new Fake()
  },
}))
vi.mock('node:net', async (original) => ({ ...(await original<typeof import('node:net')>()), connect: () => stream() }))
vi.mock('node:tls', async (original) => ({ ...(await original<typeof import('node:tls')>()), connect: () => stream() }))
vi.mock('node:http2', async (original) => ({
  ...(await original<typeof import('node:http2')>()),
  connect: () => stream(),
}))

describe.each<Transport>(['udp', 'tcp', 'tls', 'https'])('by %s', (transport) => {
  describe.each(['made', 'connect throws', 'connect calls back', 'connect emits', 'send throws', 'send emits'])(
    '%s',
    (at) => {
      beforeEach(() => void (fault.at = at))
      test.each([
        ['ENETUNREACH', 'not-tried'],
        ['EHOSTUNREACH', 'not-tried'],
        ['EADDRNOTAVAIL', 'not-tried'],
        ['EAFNOSUPPORT', 'not-tried'],
        ['ECONNREFUSED', 'no-reply'],
        ['EACCES', 'no-reply'],
        ['EMFILE', 'no-reply'],
        ['ERR_SOCKET_BAD_PORT', 'no-reply'],
      ])('%s', async (code, kind) => {
        fault.code = code
        const asker = new Asker({ label: 'v', address: '2001:db8::53', port: 53, transport }, CLOCK, {
          limitMs: 150,
          firstWaitMs: 20,
        })
        const answers = await Promise.all(Array.from({ length: 8 }, (_, i) => asker.ask(`n${i}.example.`, 1)))
        asker.close()
        expect(new Set(answers.map(({ trouble }) => trouble?.kind))).toEqual(new Set([kind]))
      })
    },
  )
})

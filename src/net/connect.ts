/** Streams to servers: TCP, or TLS. */
import { connect, isIP, type Socket } from 'node:net'
import type { Vantage } from '../core/confirm/observation.ts'

export async function openStream({ address: host, port, transport, name, authority }: Vantage): Promise<Socket> {
  if (transport !== 'tls') return connect({ host, port, noDelay: true })
  const { connect: secured } = await import('node:tls')
  const { readFileSync } = await import('node:fs')
  return secured({
    host,
    port,
    ALPNProtocols: ['dot'],
    minVersion: 'TLSv1.3',
    ca: authority === undefined ? undefined : readFileSync(authority, 'utf8'),
    ...(name === undefined || isIP(name) ? {} : { servername: name }),
  })
}

/** The event after which such a stream takes octets. */
export const readyEvent = ({ transport }: Vantage): 'secureConnect' | 'connect' =>
  transport === 'tls' ? 'secureConnect' : 'connect'

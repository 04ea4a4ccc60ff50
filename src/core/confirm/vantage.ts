/** One party that is asked, and how it is reached. */
import { parseAddress } from '../names/address.ts'
import { bare } from '../names/name.ts'
import type { Vantage } from './observation.ts'

/** Where each transport listens, where nothing else is said (RFC 1035 §4.2, RFC 7858 §3.1, RFC 8484). */
const PORTS = { udp: 53, tcp: 53, tls: 853, https: 443 }

/**
 * A vantage from text, labelled as it was written; undefined where it is none. An address (`192.0.2.1`, `2001:db8::1`), with a port (`192.0.2.1:5300`, `[2001:db8::1]:5300`);
 * behind it, where it is not asked by UDP, the transport and the name to verify (`198.51.100.7 tls dns.larkpost.example`); or the URL of a resolver over HTTPS (RFC 8484).
 */
export function parseVantage(text: string): Vantage | undefined {
  if (/^https:\/\//i.test(text)) return urlVantage(text, text)
  const [where = '', transport = 'udp', name, ...more] = text.trim().split(/\s+/)
  const match =
    /^\[([^\]]+)\](?::(\d+))?$/.exec(where) ?? (parseAddress(where) ? [where, where] : /^([^:]+):(\d+)$/.exec(where))
  if (!match || !parseAddress(match[1]!) || more.length > 0 || (name !== undefined && transport !== 'tls'))
    return undefined
  if (transport !== 'udp' && transport !== 'tcp' && transport !== 'tls') return undefined
  const port = match[2] === undefined ? PORTS[transport] : Number(match[2])
  return port > 0 && port < 65_536
    ? { label: text, address: match[1]!, port, transport, ...(name === undefined ? {} : { name }) }
    : undefined
}

/** The vantage behind the URL of a resolver over HTTPS; a template's `{?dns}` is left out. Undefined where it is no such URL. */
export function urlVantage(label: string, text: string): Vantage | undefined {
  const stated = text.replace(/\{\?dns\}$/, '')
  if (!URL.canParse(stated)) return undefined
  const url = new URL(stated)
  if (url.protocol !== 'https:' || url.username !== '' || url.hash !== '') return undefined
  const name = url.hostname.replace(/^\[|\]$/g, '')
  return {
    label,
    address: name,
    port: Number(url.port) || PORTS.https,
    transport: 'https',
    name,
    path: url.pathname + url.search,
  }
}

/** Where a name server really listens, when that is not what DNS says. */
export interface ServerEntry {
  name: string
  address: string
  port: number
}

/** A vantage as bramblefront.yaml describes it; `authority` is a path. Undefined where it says nothing of where to ask. */
export function vantageOf(entry: {
  label: string
  address?: string
  port?: number
  transport?: Vantage['transport']
  name?: string
  authority?: string
  url?: string
  method?: Vantage['method']
}): Vantage | undefined {
  const { label, address, name, authority, method, url } = entry
  const transport = entry.transport ?? (url ? 'https' : 'udp')
  const byUrl = url === undefined ? undefined : urlVantage(label, url)
  if (address === undefined && !byUrl) return undefined
  return {
    ...byUrl,
    label,
    address: address ?? byUrl!.address,
    port: entry.port ?? byUrl?.port ?? PORTS[transport],
    transport,
    ...(name === undefined ? {} : { name: bare(name) }),
    ...(authority === undefined ? {} : { authority }),
    ...(method === undefined ? {} : { method }),
  }
}

/** An address with its port, where that is not the usual one, as people type it: `192.0.2.1`, `192.0.2.1:5300`, `[2001:db8::1]:5300`. */
export const endpoint = ({ address, port }: Pick<Vantage, 'address' | 'port'>): string =>
  port === PORTS.udp ? address : `${address.includes(':') ? `[${address}]` : address}:${port}`

/** How a vantage is reached, in words: `192.0.2.1 port 53`, `198.51.100.7 port 853 over TLS`. */
export function reachedAt({ address, port, transport = 'udp', name }: Vantage): string {
  const over = transport === 'udp' ? '' : ` over ${transport.toUpperCase()}`
  return `${address} port ${port}${over}${name && name !== address ? ` as ${name}` : ''}`
}

/** Whether an address is this machine’s own or of a private network: whoever asks there asks their own servers. */
export function isNear(address: string): boolean {
  return /^(?:127\.|10\.|192\.168\.|172\.(?:1[6-9]|2\d|3[01])\.|169\.254\.|::1$|f[cd][0-9a-f]{2}:|fe80:|localhost$)/i.test(
    address,
  )
}

/** Where a server is, however it is reached: its ports for DNS over TCP and over TLS are one place. */
export const serverPlace = ({ address, port, transport }: Pick<Vantage, 'address' | 'port' | 'transport'>): string =>
  `${address} ${transport === 'tls' && port === PORTS.tls ? PORTS.tcp : port}`

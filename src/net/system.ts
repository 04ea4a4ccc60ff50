/** The resolvers that this machine uses by itself. */
import { readFileSync } from 'node:fs'
import { isIP } from 'node:net'
import type { Vantage } from '../core/confirm/observation.ts'

/** Those that a resolv.conf names, in its order; the text of none is empty. */
export function systemVantages(text: string): Vantage[] {
  return text
    .split('\n')
    .flatMap((line) => /^\s*nameserver\s+([^\s#;]+)/.exec(line)?.[1] ?? [])
    .map((address) => address.replace(/%.*$/, ''))
    .filter((address, i, all) => isIP(address) !== 0 && all.indexOf(address) === i)
    .map((address) => ({ label: `system ${address}`, address, port: 53, transport: 'udp' }))
}

export function readSystemVantages(file = '/etc/resolv.conf'): Vantage[] {
  try {
    return systemVantages(readFileSync(file, 'utf8'))
  } catch {
    return []
  }
}

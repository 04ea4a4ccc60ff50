/** The resolvers that this machine uses by itself. */
import { getServers } from 'node:dns'
import type { Vantage } from '../core/confirm/observation.ts'
import { parseVantage } from '../core/confirm/vantage.ts'

/** Those that the system names, in its order, each once; `servers` as Node writes them, with a port where it is not 53. */
export function systemVantages(servers = getServers()): Vantage[] {
  const addresses = servers.map((each) => each.replace(/%[^\]]*/, ''))
  return [...new Set(addresses)].flatMap((each) => {
    const vantage = parseVantage(each)
    return vantage ? [{ ...vantage, label: `system ${each}` }] : []
  })
}

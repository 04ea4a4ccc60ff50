/** The authoritative servers of a zone, and those of the zone above it, as vantages: by the addresses in the kept zones, by a stated table, or found by asking. */
import { answer } from '../core/answer/answer.ts'
import { addressText } from '../core/names/address.ts'
import { bare, foldName, labelsOf, type Name, wireToName } from '../core/names/name.ts'
import { TYPE } from '../core/records/types.ts'
import type { Vantage } from '../core/verdicts/observation.ts'
import type { ServerEntry } from '../core/verdicts/vantage.ts'
import type { Zone, Zones } from '../core/zone/zones.ts'
import type { Asker } from './ask.ts'

export type ServerVantage = Vantage & { server: Name }

export interface Authorities {
  servers: ServerVantage[]
  parents: ServerVantage[]
  /** Servers that no address was found for. */
  unfound: Name[]
}

/** Servers of the parent zone that are asked for its delegation. */
const PARENTS = 2

/** `resolvers` are asked, in turn, for what the kept zones and the table do not say. */
export async function authoritiesOf(zones: Zones, zone: Zone, table: readonly ServerEntry[], resolvers: readonly Asker[]): Promise<Authorities> {
  const unfound: Name[] = []
  const stated = new Map<string, ServerEntry[]>()
  for (const entry of table) {
    const name = foldName(entry.name.endsWith('.') ? entry.name : `${entry.name}.`)
    stated.set(name, [...(stated.get(name) ?? []), entry])
  }
  const dataOf = async (name: Name, type: number): Promise<Uint8Array[]> => {
    const kept = answer(zones, name, type)
    // A kept zone says what is at its names; below a cut it has glue.
    if (kept.kind === 'data') return kept.answers.filter((each) => each.type === type).flatMap(({ data }) => data)
    if (kept.kind === 'referral') {
      const glue = kept.additional.filter((each) => each.type === type && foldName(each.owner) === foldName(name)).flatMap(({ data }) => data)
      if (glue.length > 0) return glue
    }
    if (kept.kind === 'no-data' || kept.kind === 'no-name') return []
    for (const resolver of resolvers) {
      const { message } = await resolver.ask(name, type)
      if (message?.rcode === 0 && (message.recursionAvailable || message.authoritative))
        return message.answers.filter((each) => each.type === type).map(({ data }) => data)
    }
    return []
  }
  const vantagesOf = async (name: Name, prefix = ''): Promise<ServerVantage[]> => {
    const entries = stated.get(foldName(name))
    const label = `${prefix}${bare(name)}`
    const addresses = entries ?? [...(await dataOf(name, TYPE.A)), ...(await dataOf(name, TYPE.AAAA))].map((data) => ({ address: addressText(data), port: 53 }))
    if (addresses.length === 0) unfound.push(name)
    return addresses.map(({ address, port }) => ({
      label: addresses.length === 1 ? label : `${label} ${address}`,
      address,
      port,
      transport: 'udp',
      server: name,
    }))
  }
  const intended = answer(zones, zone.name, TYPE.NS).answers.find(({ type }) => type === TYPE.NS)
  const servers = await Promise.all((intended?.data ?? []).map((data) => vantagesOf(wireToName(data))))
  let parents: ServerVantage[] = []
  const labels = labelsOf(zone.name)
  for (let i = 1; i <= labels.length && parents.length === 0; i++) {
    const above = i === labels.length ? '.' : `${labels.slice(i).join('.')}.`
    const names = (await dataOf(above, TYPE.NS)).map((data) => wireToName(data)).slice(0, PARENTS)
    parents = (await Promise.all(names.map((name) => vantagesOf(name, 'parent ')))).map(([first]) => first).filter(Boolean)
    if (names.length > 0) break
  }
  return { servers: servers.flat(), parents, unfound }
}

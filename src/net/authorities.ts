/** The authoritative servers of a zone, and those of the zone above it, as vantages: by the addresses in the kept zones, by a stated table, or found by asking. */

import type { Vantage } from '../core/confirm/observation.ts'
import type { ServerEntry } from '../core/confirm/vantage.ts'
import { dataOf, type Find, findAsked, findIntended, findIntendedThenAsked } from '../core/knowledge/find.ts'
import type { Zone, Zones } from '../core/model/zones.ts'
import { addressText } from '../core/names/address.ts'
import { bare, foldName, labelsOf, type Name, wireToName } from '../core/names/name.ts'
import { TYPE } from '../core/records/types.ts'
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

export class ServerFinder {
  private readonly zones: Zones
  private readonly stated = new Map<Name, ServerEntry[]>()
  private readonly find: Find
  // Zones share their servers, and what is above them.
  private readonly known = new Map<string, Promise<ServerVantage[]>>()
  private readonly parents = new Map<Name, Promise<ServerVantage[]>>()

  /** `table` says where servers really listen; `resolvers` are asked, in turn, for what it and your zones do not say. */
  constructor(zones: Zones, table: readonly ServerEntry[], resolvers: readonly Asker[]) {
    this.zones = zones
    // Answers are remembered: zones share their servers.
    const asked = findAsked(resolvers.map((each) => (name, type) => each.ask(name, type)))
    this.find = findIntendedThenAsked(zones, asked)
    for (const entry of table) {
      const name = foldName(entry.name.endsWith('.') ? entry.name : `${entry.name}.`)
      this.stated.set(name, [...(this.stated.get(name) ?? []), entry])
    }
  }

  async serversOf(zone: Zone): Promise<Authorities> {
    const names = dataOf(findIntended(this.zones, zone.name, TYPE.NS)).map((data) => wireToName(data))
    const servers = await Promise.all(names.map((name) => this.vantagesOf(name)))
    const unfound = names.filter((_, i) => servers[i]!.length === 0)
    return { servers: servers.flat(), parents: await this.parentsOf(zone.name), unfound }
  }

  /** Servers of a zone by its name alone, as your zones or those who are asked have them. */
  async serversNamed(zone: Name): Promise<ServerVantage[]> {
    const names = (await this.dataOf(zone, TYPE.NS)).map((data) => wireToName(data))
    return (await Promise.all(names.map((name) => this.vantagesOf(name)))).flat()
  }

  /** A server at each of its addresses, by its name. */
  hostNamed(name: Name): Promise<ServerVantage[]> {
    return this.vantagesOf(name)
  }

  /** Servers of the nearest zone above a name. */
  private parentsOf(name: Name): Promise<ServerVantage[]> {
    const labels = labelsOf(name).slice(1)
    const above = labels.length === 0 ? '.' : `${labels.join('.')}.`
    let found = this.parents.get(foldName(above))
    if (!found) this.parents.set(foldName(above), (found = this.findParents(above)))
    return found
  }

  private async findParents(above: Name): Promise<ServerVantage[]> {
    const names = (await this.dataOf(above, TYPE.NS)).map((data) => wireToName(data)).slice(0, PARENTS)
    if (names.length === 0) return above === '.' ? [] : this.parentsOf(above)
    const found = await Promise.all(names.map((name) => this.vantagesOf(name, 'parent ')))
    return found.flatMap(([first]) => first ?? [])
  }

  /** A server at each of its addresses; at none where nobody knows one. */
  private vantagesOf(name: Name, prefix = ''): Promise<ServerVantage[]> {
    const label = `${prefix}${bare(name)}`
    let found = this.known.get(label)
    if (!found) this.known.set(label, (found = this.findVantages(name, label)))
    return found
  }

  private async findVantages(name: Name, label: string): Promise<ServerVantage[]> {
    const entries = this.stated.get(foldName(name))
    const addresses =
      entries ??
      [...(await this.dataOf(name, TYPE.A)), ...(await this.dataOf(name, TYPE.AAAA))].map((data) => ({
        address: addressText(data),
        port: 53,
      }))
    return addresses.map(({ address, port }) => ({
      label: addresses.length === 1 ? label : `${label} ${address}`,
      address,
      port,
      transport: 'udp',
      server: name,
    }))
  }

  /** The data at a name; below a cut, where your zones have its glue, that. */
  private async dataOf(name: Name, type: number): Promise<readonly Uint8Array[]> {
    const { glue } = findIntended(this.zones, name, type)
    return glue?.data ?? dataOf(await this.find(name, type))
  }
}

/** A zone at its servers: serials side by side, and the name servers as intended, as the servers have them, and as the parent zone delegates to them. */

import { serialAfter } from '../file/serial.ts'
import { answer } from '../knowledge/answer.ts'
import type { Message } from '../message/message.ts'
import type { Seconds, Zone, Zones } from '../model/zones.ts'
import { bare, foldName, type Name, wireToName } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { soa } from '../records/views.ts'
import type { Observation } from './observation.ts'

export interface Soa {
  primary: Name
  serial: number
  refresh: Seconds
  retry: Seconds
  expire: Seconds
}

export interface ServerState {
  vantage: string
  /** The name of the server, where it is known by one. */
  server?: Name
  soa?: Soa
  ns?: Name[]
  nsTtl?: Seconds
}

export interface ZoneState {
  intended: { soa?: Soa; ns: Name[]; nsTtl: Seconds }
  servers: ServerState[]
  /** What servers of the parent zone delegate to. */
  parents: { vantage: string; ns: Name[]; nsTtl: Seconds }[]
}

/** What is to be said of a zone at its servers. */
export interface Remark {
  what: 'behind' | 'ahead' | 'not-published' | 'own-soa' | 'own-ns' | 'delegation'
  /** Whether it is a fault, and not only worth knowing. */
  wrong: boolean
  text: string
}

/** The fields of a SOA record's data (RFC 1035 §3.3.13). */
function soaOf(data: Uint8Array): Soa {
  const { serial, refresh, retry, expire } = soa(data)
  return { primary: wireToName(data), serial, refresh, retry, expire }
}

const sorted = (names: readonly Name[]): Name[] => [...new Set(names.map(foldName))].sort()
const same = (a: readonly Name[], b: readonly Name[]): boolean =>
  a.length === b.length && a.every((name, i) => name === b[i])

export function intendedState(zones: Zones, zone: Zone): ZoneState['intended'] {
  const soa = zone.soa >= 0 ? soaOf(zones.rdata(zone.soa)) : undefined
  const ns = answer(zones, zone.name, TYPE.NS).answers.find(({ type }) => type === TYPE.NS)
  return { soa, ns: sorted((ns?.data ?? []).map((data) => wireToName(data))), nsTtl: ns?.ttl ?? 0 }
}

/** What a server of the zone says of it, from its answers for SOA and NS. */
export function serverState(
  zone: Zone,
  vantage: string,
  server: Name | undefined,
  soa: Observation,
  ns: Observation,
): ServerState {
  const name = foldName(zone.name)
  const data = soa.message?.authoritative
    ? soa.message.answers.find((each) => each.type === TYPE.SOA && foldName(each.owner) === name)?.data
    : undefined
  const found = ns.message && nsIn(ns.message.answers, name)
  return { vantage, server, soa: data && soaOf(data), ns: found?.ns, nsTtl: found?.nsTtl }
}

/** What a server of the parent zone delegates to; undefined where it says nothing of it. It may hold the zone, too, and answer for it. */
export function delegationIn(zone: Zone, message: Message | undefined): { ns: Name[]; nsTtl: Seconds } | undefined {
  const name = foldName(zone.name)
  return message && message.rcode === 0 ? (nsIn(message.authority, name) ?? nsIn(message.answers, name)) : undefined
}

function nsIn(records: Message['answers'], name: Name): { ns: Name[]; nsTtl: Seconds } | undefined {
  const found = records.filter((each) => each.type === TYPE.NS && foldName(each.owner) === name)
  return found.length === 0
    ? undefined
    : { ns: sorted(found.map(({ data }) => wireToName(data))), nsTtl: found[0]!.ttl }
}

/** The server whose serial leads: the one that the SOA records name first, where it is among them, else the one that is furthest. */
function leading(servers: readonly ServerState[]): ServerState | undefined {
  const known = servers.filter(({ soa }) => soa)
  const named = known.find(({ server, soa }) => server !== undefined && foldName(server) === foldName(soa!.primary))
  return (
    named ??
    known.reduce<ServerState | undefined>(
      (best, each) => (!best || serialAfter(each.soa!.serial, best.soa!.serial) ? each : best),
      undefined,
    )
  )
}

/** How long a server of the zone may take to fetch a new state: refresh, and one retry. */
export function transferTime({ servers, intended }: ZoneState): Seconds {
  const soa = leading(servers)?.soa ?? intended.soa
  return soa ? soa.refresh + soa.retry : 0
}

export function remarksOn({ intended, servers, parents }: ZoneState): Remark[] {
  const remarks: Remark[] = []
  const first = leading(servers)
  const isOwn = (soa: Soa): boolean =>
    intended.soa !== undefined &&
    foldName(soa.primary) !== foldName(intended.soa.primary) &&
    soa.refresh !== intended.soa.refresh
  if (first?.soa) {
    const { serial } = first.soa
    for (const { vantage, soa } of servers) {
      if (!soa || soa.serial === serial) continue
      if (serialAfter(serial, soa.serial))
        remarks.push({
          what: 'behind',
          wrong: false,
          text: `${vantage} is behind: serial ${soa.serial}, ${first.vantage} has ${serial}`,
        })
      else
        remarks.push({
          what: 'ahead',
          wrong: true,
          text: `${vantage} is ahead of ${first.vantage}: serial ${soa.serial}, later than ${serial}; it will not transfer an older zone`,
        })
    }
    if (isOwn(first.soa))
      remarks.push({
        what: 'own-soa',
        wrong: false,
        text: `${first.vantage} has an SOA record of its own: serials are not compared with the file’s`,
      })
    else if (intended.soa && serialAfter(intended.soa.serial, serial))
      remarks.push({
        what: 'not-published',
        wrong: false,
        text: `the file has serial ${intended.soa.serial}, the servers have ${serial}: this version is not published yet`,
      })
    else if (intended.soa && serial !== intended.soa.serial)
      remarks.push({
        what: 'ahead',
        wrong: false,
        text: `the servers have serial ${serial}, later than the file’s ${intended.soa.serial}: they number it themselves, or the zone was changed there`,
      })
  }
  const others = servers.filter(({ ns }) => ns && !same(ns, intended.ns))
  const delegated = parents.find(({ ns }) => !same(ns, intended.ns))
  for (const { vantage, ns } of others) {
    const own = parents.length > 0 && parents.every((each) => same(each.ns, ns!))
    remarks.push({
      what: 'own-ns',
      wrong: false,
      text: `${vantage} has different NS records than the file: ${ns!.map(bare).join(', ')}${own ? ', as the parent zone does' : ''}`,
    })
  }
  // A host has its own servers: they count where it and the parent zone agree.
  if (delegated && !(others.length > 0 && others.every(({ ns }) => same(ns!, delegated.ns))))
    remarks.push({
      what: 'delegation',
      wrong: true,
      text: `the parent zone delegates to ${delegated.ns.map(bare).join(', ')}; intended are ${intended.ns.map(bare).join(', ')} (asked at ${delegated.vantage})`,
    })
  return remarks
}

/** A zone at its servers: serials side by side, and the name servers as intended, as the servers have them, and as the parent zone delegates to them. */

import { serialAfter } from '../file/serial.ts'
import { answer } from '../knowledge/answer.ts'
import { findIntended } from '../knowledge/find.ts'
import type { Message, MessageRecord } from '../message/message.ts'
import type { Seconds, Zone, Zones } from '../model/zones.ts'
import { bare, foldName, isAtOrBelow, labelsOf, type Name, nameToWire, wireToName } from '../names/name.ts'
import { type Signature, signatureOf } from '../records/dnssec/parts.ts'
import { type Rdata, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import { soa, typeCovered } from '../records/views.ts'
import type { Observation } from './observation.ts'
import type { Question } from './questions.ts'
import type { Copy } from './status.ts'
import { timeText } from './time-text.ts'
import { type Judged, judgeOwn } from './verdict.ts'

export interface Soa {
  primary: Name
  serial: number
  refresh: Seconds
  retry: Seconds
  expire: Seconds
  /** How long negative answers may be cached, with the TTL of the record (RFC 2308 §4). */
  minimum: Seconds
}

/** Seconds since 1970. */
interface Span {
  from: number
  until: number
}

export interface ServerState {
  vantage: string
  /** The name of the server, where it is known by one. */
  server?: Name
  soa?: Soa
  ns?: Name[]
  nsTtl?: Seconds
  /** Of a signed zone: from when to when the signature of its SOA record holds (RFC 4034 §3.1.5). */
  signed?: Span
  /** How it answered for SOA and NS. */
  own: { soa: Judged; ns: Judged }
}

export interface ZoneState {
  intended: {
    /** Missing where the zone has none of its own: its host numbers it. */
    soa?: Soa
    ns: Name[]
    nsTtl: Seconds
  }
  servers: ServerState[]
  /** What servers of the parent zone delegate to. */
  parents: { vantage: string; ns: Name[]; nsTtl: Seconds; glue?: Glue[] }[]
  /** Whether the parent zone has a DS record for it, so that it is validated; undefined where that was not asked, or nobody said. */
  secured?: boolean
}

/** An address of a name server in the zone, as the parent zone has it. */
interface Glue {
  name: Name
  type: number
  data: Rdata
}

/** What is to be said of a zone at its servers. */
export interface Remark {
  what:
    | 'behind'
    | 'ahead'
    | 'not-published'
    | 'own-soa'
    | 'own-ns'
    | 'delegation'
    | 'soa-timers'
    | 'glue'
    | 'signature'
    | 'denies-name'
  /** Whether it is a fault, and not only worth knowing. */
  wrong: boolean
  text: string
}

/** The fields of a SOA record's data (RFC 1035 §3.3.13). */
function soaOf(data: Uint8Array): Soa {
  const { serial, refresh, retry, expire, minimum } = soa(data)
  return { primary: wireToName(data), serial, refresh, retry, expire, minimum }
}

const sorted = (names: readonly Name[]): Name[] => [...new Set(names.map(foldName))].sort()
const same = (a: readonly Name[], b: readonly Name[]): boolean =>
  a.length === b.length && a.every((name, i) => name === b[i])

/** What is intended; of a zone that its host numbers, without its SOA record. */
export function intendedState(zones: Zones, zone: Zone, hosted = false): ZoneState['intended'] {
  const soa = zone.soa >= 0 && !hosted ? soaOf(zones.rdata(zone.soa)) : undefined
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
  const isHere = (each: MessageRecord, type: number): boolean => each.type === type && foldName(each.owner) === name
  const answers = soa.message?.authoritative ? soa.message.answers : []
  const data = answers.find((each) => isHere(each, TYPE.SOA))?.data
  const spans = answers
    .filter((each) => isHere(each, TYPE.RRSIG) && typeCovered(each.data) === TYPE.SOA)
    .map((each) => spanOf(signatureOf(each.data), soa.at))
  const found = ns.message && nsIn(ns.message.answers, name)
  return {
    vantage,
    server,
    soa: data && soaOf(data),
    ns: found?.ns,
    nsTtl: found?.nsTtl,
    ...(spans.length > 0 ? { signed: best(spans, soa.at) } : {}),
    own: { soa: judgeOwn(zone.name, TYPE.SOA, soa), ns: judgeOwn(zone.name, TYPE.NS, ns) },
  }
}

/** Of several signatures, as while keys change, one that holds is enough: the one that does so for longest, else the one that did. */
function best(spans: readonly Span[], now: number): Span {
  const rank = ({ from, until }: Span): number => (from <= now ? until : Number.NEGATIVE_INFINITY)
  return spans.reduce((a, b) => (rank(b) > rank(a) ? b : a))
}

/** When a signature holds: moments on 32 bits, the ones nearest to now (RFC 4034 §3.1.5). */
function spanOf({ inception, expiration }: Signature, now: number): Span {
  const near = Math.floor(now)
  const moment = (seconds: number): number => near + ((seconds - near) | 0)
  return { from: moment(inception), until: moment(expiration) }
}

/** What a server of the parent zone delegates to; undefined where it says nothing of it. It may hold the zone, too, and answer for it. */
export function delegationIn(zone: Zone, message: Message | undefined): { ns: Name[]; nsTtl: Seconds } | undefined {
  const name = foldName(zone.name)
  return message && message.rcode === 0 ? (nsIn(message.authority, name) ?? nsIn(message.answers, name)) : undefined
}

/** The addresses of servers in the zone, in a referral to it. */
export const glueIn = ({ name }: Zone, { additional }: Message): Glue[] =>
  additional
    .filter(({ owner, type }) => (type === TYPE.A || type === TYPE.AAAA) && isAtOrBelow(owner, name))
    .map(({ owner, type, data }) => ({ name: foldName(owner), type, data }))

function nsIn(records: Message['answers'], name: Name): { ns: Name[]; nsTtl: Seconds } | undefined {
  const found = records.filter((each) => each.type === TYPE.NS && foldName(each.owner) === name)
  return found.length === 0
    ? undefined
    : { ns: sorted(found.map(({ data }) => wireToName(data))), nsTtl: found[0]!.ttl }
}

/** The NS set of the zone as a set to confirm. */
export const nsQuestion = ({ name }: Zone, { ns, nsTtl }: ZoneState['intended']): Question => ({
  owner: name,
  type: TYPE.NS,
  asked: name,
  intended: { owner: name, type: TYPE.NS, ttl: nsTtl, data: ns.map((each) => nameToWire(each) as Uint8Array) },
})

/** The server that the others transfer the zone from, by the SOA records; undefined where it is none of those that are asked. */
const primaryOf = (servers: readonly ServerState[]): ServerState | undefined =>
  servers.find(({ server, soa }) => soa && server !== undefined && foldName(server) === foldName(soa.primary))

/** Whether the servers tell the same serials as they did. */
export const sameSerials = (a: ZoneState, b: ZoneState): boolean =>
  a.servers.every(({ soa }, i) => soa?.serial === b.servers[i]?.soa?.serial)

/**
 * Servers that deny a name, asked for a type that was removed there, although they have other records of it: whoever caches that takes the whole name as missing (RFC 2308 §5).
 */
export function deniedNames(answersTo: ReadonlyMap<Question, readonly Judged[]>): Remark[] {
  const denied: { question: Question; vantage: string }[] = []
  for (const [question, answers] of answersTo)
    if (question.exists)
      for (const { role, noName, vantage } of answers)
        if (role === 'authoritative' && noName) denied.push({ question, vantage })
  if (denied.length === 0) return []
  const has = new Map<string, string>()
  for (const [question, answers] of answersTo)
    for (const { vantage, verdict, noName } of answers) {
      if (!question.intended || verdict !== 'as-intended' || noName) continue
      const labels = labelsOf(foldName(question.owner))
      for (const i of labels.keys())
        has.set(
          `${vantage} ${labels.slice(i).join('.')}.`,
          i === 0 ? `${typeText(question.type)} records there` : 'names below it',
        )
    }
  return denied.flatMap(({ question: { owner, type }, vantage }): Remark[] => {
    const other = has.get(`${vantage} ${foldName(owner)}`)
    return other === undefined
      ? []
      : [
          {
            what: 'denies-name',
            wrong: true,
            text: `${vantage} answers NXDOMAIN for ${bare(owner)} ${typeText(type)}, which was removed, although it has ${other}: resolvers that cache this treat the whole name as nonexistent`,
          },
        ]
  })
}

/** The label of the server that the others transfer the zone from, by the SOA records that came, where it did not tell its own. */
export function silentPrimary(servers: readonly ServerState[]): string | undefined {
  const primary = furthest(servers)?.soa?.primary
  return primary === undefined
    ? undefined
    : servers.find(({ server, soa }) => !soa && server !== undefined && foldName(server) === foldName(primary))?.vantage
}

/** The server that is furthest. */
const furthest = (servers: readonly ServerState[]): ServerState | undefined =>
  servers.reduce<ServerState | undefined>(
    (best, each) => (each.soa && (!best || serialAfter(each.soa.serial, best.soa!.serial)) ? each : best),
    undefined,
  )

/** What is known of each server's copy. One that is behind fetches the zone by its own timers (RFC 1035 §3.3.13), counted from when there was something to fetch. */
export function copiesOf(
  { zone, memory }: { zone: Zone; memory: { laterThan(zone: Name, serial: number): number | undefined } },
  { servers }: Pick<ZoneState, 'servers'>,
  now: number,
): Map<string, Copy> {
  const primary = primaryOf(servers)
  const first = furthest(servers)?.soa
  const copies = new Map<string, Copy>()
  for (const each of servers) {
    if (!each.soa) continue
    const { serial, refresh, retry } = each.soa
    const copy: Copy = { serial, isPrimary: each === primary }
    if (first && serialAfter(first.serial, serial)) {
      const since = memory.laterThan(zone.name, serial)
      copy.fetchedBy = (since ?? now) + refresh + retry
      copy.atMost = since === undefined
    }
    copies.set(each.vantage, copy)
  }
  return copies
}

export function remarksOn(state: ZoneState, copies: ReadonlyMap<string, Copy>, now: number, zones: Zones): Remark[] {
  return [...ofSerials(state, copies, now), ...ofTimers(state), ...ofNameServers(state), ...ofGlue(state, zones)]
}

/** The serials of the servers, side by side and with the file's. */
function ofSerials({ intended, servers }: ZoneState, copies: ReadonlyMap<string, Copy>, now: number): Remark[] {
  const first = furthest(servers)
  if (!first?.soa) return []
  const remarks: Remark[] = []
  const { serial } = first.soa
  for (const { vantage, soa } of servers) {
    if (!soa || soa.serial === serial) continue
    const copy = copies.get(vantage)
    if (copy?.isPrimary)
      remarks.push({
        what: 'ahead',
        wrong: true,
        text: `${first.vantage} is ahead of ${vantage}: serial ${serial}, later than ${soa.serial} of the primary server; it will not transfer an older zone`,
      })
    else {
      const late = copy?.fetchedBy !== undefined && now > copy.fetchedBy
      remarks.push({
        what: 'behind',
        wrong: late,
        text: `${vantage} is behind: serial ${soa.serial}, ${first.vantage} has ${serial}${late ? `; by its own timers it should have transferred the zone by ${timeText(copy.fetchedBy!, now)}` : ''}`,
      })
    }
  }
  const isOwn =
    intended.soa !== undefined &&
    foldName(first.soa.primary) !== foldName(intended.soa.primary) &&
    first.soa.refresh !== intended.soa.refresh
  if (isOwn)
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
  return remarks
}

/** Timers that differ at one serial: one of the two was changed without a new serial. */
function ofTimers({ intended, servers }: ZoneState): Remark[] {
  const { soa } = intended
  if (!soa) return []
  const other = servers.find(
    (each) =>
      each.soa?.serial === soa.serial &&
      (['refresh', 'retry', 'expire', 'minimum'] as const).some((field) => each.soa![field] !== soa[field]),
  )
  const timers = ({ refresh, retry, expire, minimum }: Soa): string => `${refresh} ${retry} ${expire} ${minimum}`
  return other
    ? [
        {
          what: 'soa-timers',
          wrong: true,
          text: `${other.vantage} has serial ${soa.serial}, as the file, but other SOA timers: ${timers(other.soa!)} instead of ${timers(soa)}`,
        },
      ]
    : []
}

/** The NS set in the file, at the servers, and in the parent zone. */
function ofNameServers({ intended, servers, parents }: ZoneState): Remark[] {
  const remarks: Remark[] = []
  const others = servers.filter(({ ns }) => ns && !same(ns, intended.ns))
  const delegated = parents.find(({ ns }) => !same(ns, intended.ns))
  const names = (list: readonly Name[]): string => list.map(bare).join(', ')
  const known = new Set([...intended.ns, ...parents.flatMap(({ ns }) => ns)])
  const serial = furthest(servers)?.soa?.serial
  const isOld = serial !== undefined && intended.soa !== undefined && serialAfter(intended.soa.serial, serial)
  for (const { vantage, ns, soa } of others) {
    // Only where the parent zone confirms it is another set the business of the host.
    if (parents.length > 0 && parents.every((each) => same(each.ns, ns!))) {
      remarks.push({
        what: 'own-ns',
        wrong: false,
        text: `${vantage} has different NS records than the file: ${names(ns!)}, as the parent zone does`,
      })
      continue
    }
    const isBehind = soa && serial !== undefined && serialAfter(serial, soa.serial)
    const strange = ns!.filter((name) => !known.has(name))
    const missing = intended.ns.filter((name) => !ns!.includes(name))
    const extra = ns!.filter((name) => !intended.ns.includes(name))
    const parts = [
      strange.length > 0 && `lists ${names(strange)}, which neither the file nor the parent zone has`,
      extra.length > strange.length &&
        `still lists ${names(extra.filter((name) => known.has(name)))}, which the file does not`,
      missing.length > 0 && `does not list ${names(missing)}`,
    ].filter(Boolean)
    remarks.push({
      what: 'own-ns',
      wrong: !isBehind,
      text: `the NS set at ${vantage} is not the intended one: it ${parts.join(', and ')}${isOld ? ': this version is not published yet' : isBehind ? ': it is behind' : ''}`,
    })
  }
  // A host has its own servers: they count where it and the parent zone agree.
  if (delegated && !(others.length > 0 && others.every(({ ns }) => same(ns!, delegated.ns))))
    remarks.push({
      what: 'delegation',
      wrong: true,
      text: `the parent zone delegates to ${names(delegated.ns)}; intended are ${names(intended.ns)} (asked at ${delegated.vantage})`,
    })
  return remarks
}

/** The parent zone's glue beside the addresses in the zone itself: resolvers begin with the one, and go on with the other. */
function ofGlue({ parents }: ZoneState, zones: Zones): Remark[] {
  for (const { vantage, glue = [] } of parents)
    for (const name of new Set(glue.map((each) => each.name)))
      for (const type of [TYPE.A, TYPE.AAAA]) {
        const { outcome, set } = findIntended(zones, name, type)
        if (outcome === 'unknown') continue
        const there = glue.filter((each) => each.name === name && each.type === type).map(({ data }) => data)
        const text = (list: readonly Rdata[]): string =>
          list
            .map((data) => rdataText(type, data))
            .sort()
            .join(', ')
        const [has, wanted] = [text(there), text(set?.data ?? [])]
        if (there.length > 0 && has !== wanted)
          return [
            {
              what: 'glue',
              wrong: true,
              text: `the parent zone has the glue ${bare(name)} ${typeText(type)} ${has}; the zone itself ${wanted ? `has ${wanted}` : 'has none of that type'} (asked at ${vantage})`,
            },
          ]
      }
  return []
}

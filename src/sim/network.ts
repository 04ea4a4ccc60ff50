/**
 * A small simulated DNS: authoritative servers (several for a zone), a parent zone with its delegations, caching resolvers; and what goes wrong with them. All of it runs on one
 * clock that is handed in, and without sockets, unless `serveNetwork` gives it some.
 */

import { negativeTtl } from '../core/knowledge/answer.ts'
import type { Garbled } from '../core/message/decode.ts'
import { encodeMessage } from '../core/message/encode.ts'
import { emptyMessage, type Message, type MessageRecord, UDP_SIZE } from '../core/message/message.ts'
import type { Zones } from '../core/model/zones.ts'
import { addressText } from '../core/names/address.ts'
import { foldName, isAtOrBelow, labelsOf, type Name, nameToWire, wireToName } from '../core/names/name.ts'
import { CLASS_IN, TYPE } from '../core/records/types.ts'
import { REFUSED, respond } from '../serve/respond.ts'
import { type Responder, type Served, serve } from '../serve/sockets.ts'

const SERVFAIL = 2
const NXDOMAIN = 3

/** What is wrong with a server or resolver; nothing, where nothing is said. */
export interface Faults {
  /** It says nothing at all, or nothing by UDP. */
  silent?: boolean | 'udp'
  /** It answers everything with this code. */
  rcode?: number
  /** By UDP everything is cut short. */
  truncates?: boolean
  /** Its answers are no messages; with EDNS only. */
  garbles?: boolean | 'edns'
  /** In front of each answer comes one with another id, and one with another name in it. */
  forgedBefore?: boolean
  /** No answer has a TTL below this, in seconds. */
  floor?: number
  /** It answers without the sign of authority, as a resolver would that sits on the way. */
  intercepted?: boolean
  /** Extended errors (RFC 8914) on failures. */
  errors?: { code: number; text: string }[]
  /** Milliseconds until it answers. */
  latencyMs?: number
  /** Names that are denied although there are names below them, or other records at them. */
  denies?: Name[]
  /** The zone is signed, and so is its SOA record, from then until then: seconds since 1970. */
  signed?: { from: number; until: number }
}

export interface ResolverTraits extends Faults {
  /** No answer is kept longer than this, in seconds. */
  cap?: number
  /** Expired answers are served when nothing newer can be had (RFC 8767); `silently`: without an extended error. */
  stale?: boolean | 'silently'
  /** So many caches of their own answer in turn. */
  caches?: number
  /** It reaches no server any more. */
  cutOff?: boolean
  /** Names whose signatures do not hold: SERVFAIL, unless checking is disabled. */
  bogus?: Name[]
  /** Of several addresses it gives one at a time. */
  turns?: boolean
}

interface Party {
  faults: ResolverTraits
  respond(query: Message): Message | undefined
}

export class Network {
  private readonly parties = new Map<string, Party>()
  private readonly clock: () => number

  /** `clock` tells the time in seconds. */
  constructor(clock: () => number) {
    this.clock = clock
  }

  /** A server with these zones; calling it again changes them. */
  server(address: string, zones: Zones, faults: Faults = this.parties.get(address)?.faults ?? {}): void {
    this.parties.set(address, {
      faults,
      respond: (query) => {
        const response = respond(zones, query, query.id)
        const denied = faults.denies?.some((name) => foldName(name) === foldName(query.questions[0]?.name ?? ''))
        if (!response || denied) return response && { ...response, rcode: NXDOMAIN }
        const least = faults.floor ?? 0
        const answers = [...response.answers, ...(query.edns?.dnssecOk ? signaturesOf(response.answers, faults) : [])]
        return { ...response, answers: answers.map((each) => ({ ...each, ttl: Math.max(each.ttl, least) })) }
      },
    })
  }

  /** A caching resolver that begins at the servers with these addresses. */
  resolver(address: string, top: readonly string[], traits: ResolverTraits = {}): void {
    const caches = Array.from(
      { length: traits.caches ?? 1 },
      () => new Cache((at, name, type) => this.upstream(at, name, type), top, this.clock, traits),
    )
    let turn = 0
    this.parties.set(address, { faults: traits, respond: (query) => caches[turn++ % caches.length]!.respond(query) })
  }

  /** What is wrong with one from now on. */
  ails(address: string, faults: ResolverTraits): void {
    const party = this.parties.get(address)!
    for (const key of Object.keys(party.faults)) delete (party.faults as Record<string, unknown>)[key]
    Object.assign(party.faults, faults)
  }

  get addresses(): string[] {
    return [...this.parties.keys()]
  }

  latencyOf(address: string): number {
    return this.parties.get(address)?.faults.latencyMs ?? 0
  }

  /** What comes back when a question is put to an address: messages or octets in order, or nothing. */
  reply(address: string, query: Message | Garbled, udp: boolean): (Message | Uint8Array)[] {
    const party = this.parties.get(address)
    if (!party || 'garbled' in query || query.response) return []
    const { faults } = party
    if (faults.silent === true || (faults.silent === 'udp' && udp)) return []
    let message: Message | undefined
    if (faults.rcode !== undefined) {
      const options = (faults.errors ?? []).map(({ code, text }) => ({
        code: 15,
        data: new Uint8Array([code >> 8, code, ...new TextEncoder().encode(text)]),
      }))
      message = {
        ...emptyMessage(query.id),
        response: true,
        questions: query.questions,
        rcode: faults.rcode,
        edns: query.edns && { size: UDP_SIZE, dnssecOk: false, options },
      }
    } else message = party.respond(query)
    if (!message) return []
    if (faults.intercepted) message = { ...message, authoritative: false, recursionAvailable: true }
    if (faults.truncates && udp) message = { ...message, truncated: true, answers: [] }
    if (faults.garbles === true || (faults.garbles === 'edns' && query.edns)) {
      const whole = encodeMessage(message)
      // The question stands; what follows it runs past its end.
      whole[7] = 9
      return [whole]
    }
    const forged = [
      { ...message, id: message.id ^ 0x5555 },
      { ...message, questions: [{ name: 'forged.example.', type: 1, class: CLASS_IN }] },
    ]
    return faults.forgedBefore ? [...forged, message] : [message]
  }

  /** What a resolver gets from a server; undefined where that is nothing of use. */
  private upstream(address: string, name: Name, type: number): Message | undefined {
    const query: Message = { ...emptyMessage(1), questions: [{ name, type, class: CLASS_IN }] }
    const [reply] = this.reply(address, query, false)
    return reply instanceof Uint8Array || !reply || reply.rcode === SERVFAIL || reply.rcode === REFUSED
      ? undefined
      : reply
  }
}

/** The signature of an SOA record (RFC 4034 §3.1): its times are right, and nothing else of it is looked at. */
function signaturesOf(answers: readonly MessageRecord[], { signed }: Faults): MessageRecord[] {
  const soa = answers.find(({ type }) => type === TYPE.SOA)
  if (!soa || !signed) return []
  const signer = nameToWire(soa.owner) as Uint8Array
  const data = new Uint8Array(18 + signer.length + 64)
  const view = new DataView(data.buffer)
  view.setUint16(0, TYPE.SOA)
  data[2] = 13
  data[3] = labelsOf(soa.owner).length
  view.setUint32(4, soa.ttl)
  view.setUint32(8, signed.until)
  view.setUint32(12, signed.from)
  data.set(signer, 18)
  return [{ ...soa, type: TYPE.RRSIG, data }]
}

interface Kept {
  since: number
  until: number
  records: MessageRecord[]
  /** Of a denial. */
  rcode?: number
}

interface Found {
  rcode: number
  answers: MessageRecord[]
  authority: MessageRecord[]
  stale?: boolean
}

/** How long a failure is kept (RFC 9520 §3.2), and the TTL of an expired answer (RFC 8767 §4). */
const FAILURE_TTL = 5
const STALE_TTL = 30
const STEPS = 16

class Cache {
  private readonly sets = new Map<string, Kept>()
  private readonly denials = new Map<string, Kept>()
  private readonly failures = new Map<string, number>()
  private readonly cuts = new Map<Name, { until: number; addresses: string[] }>()
  private readonly ask: (address: string, name: Name, type: number) => Message | undefined
  private readonly top: readonly string[]
  private readonly clock: () => number
  private readonly traits: ResolverTraits
  private turn = 0

  constructor(ask: Cache['ask'], top: readonly string[], clock: () => number, traits: ResolverTraits) {
    this.ask = ask
    this.top = top
    this.clock = clock
    this.traits = traits
  }

  respond(query: Message): Message | undefined {
    const response: Message = {
      ...emptyMessage(query.id),
      response: true,
      questions: query.questions,
      recursionDesired: query.recursionDesired,
      recursionAvailable: true,
      checkingDisabled: query.checkingDisabled,
      edns: query.edns && { size: UDP_SIZE, dnssecOk: false, options: [] },
    }
    const [question] = query.questions
    if (!question) return { ...response, rcode: 1 }
    if (!query.recursionDesired) return { ...response, rcode: REFUSED }
    const failed = (code: number, text: string): Message => {
      response.edns?.options.push({ code: 15, data: new Uint8Array([0, code, ...new TextEncoder().encode(text)]) })
      return { ...response, rcode: SERVFAIL }
    }
    if (!query.checkingDisabled && this.traits.bogus?.some((name) => isAtOrBelow(question.name, name)))
      return failed(6, '')
    const found = this.resolve(question.name, question.type, 0)
    if (!found) return failed(22, '')
    const stale =
      found.stale && this.traits.stale !== 'silently'
        ? [{ code: 15, data: new Uint8Array([0, found.rcode === NXDOMAIN ? 19 : 3]) }]
        : []
    response.edns?.options.push(...stale)
    const answers =
      this.traits.turns && found.answers.length > 1
        ? [found.answers[this.turn++ % found.answers.length]!]
        : found.answers
    return { ...response, rcode: found.rcode, answers, authority: found.authority }
  }

  private resolve(name: Name, type: number, depth: number): Found | undefined {
    if (depth > STEPS) return undefined
    const now = this.clock()
    const kept = this.known(name, type, now)
    if (kept) return this.follow(kept, type, depth)
    const key = `${foldName(name)} ${type}`
    if ((this.failures.get(key) ?? 0) <= now && this.fetch(name, type, depth, now)) {
      const fresh = this.known(name, type, now)
      if (fresh) return this.follow(fresh, type, depth)
    }
    if (!((this.failures.get(key) ?? 0) > now)) this.failures.set(key, now + FAILURE_TTL)
    const old = this.traits.stale ? (this.sets.get(key) ?? this.sets.get(`${foldName(name)} ${TYPE.CNAME}`)) : undefined
    if (old)
      return {
        rcode: 0,
        authority: [],
        stale: true,
        answers: old.records.map((record) => ({ ...record, ttl: STALE_TTL })),
      }
    return undefined
  }

  /** What is in memory for a name and type: the set, an alias, a denial of it or of a name above (RFC 8020). */
  private known(name: Name, type: number, now: number): Found | undefined {
    const folded = foldName(name)
    const set =
      this.alive(this.sets.get(`${folded} ${type}`), now) ?? this.alive(this.sets.get(`${folded} ${TYPE.CNAME}`), now)
    if (set) return { rcode: 0, answers: aged(set, now), authority: [] }
    const labels = labelsOf(folded)
    const above = labels.map((_label, i) => `${labels.slice(i).join('.')}. *`)
    const denial =
      this.alive(this.denials.get(`${folded} ${type}`), now) ??
      above.map((key) => this.alive(this.denials.get(key), now)).find(Boolean)
    return denial && { rcode: denial.rcode!, answers: [], authority: aged(denial, now) }
  }

  private alive(kept: Kept | undefined, now: number): Kept | undefined {
    return kept && kept.until > now ? kept : undefined
  }

  private follow(found: Found, type: number, depth: number): Found | undefined {
    const alias = found.answers.find((each) => each.type === TYPE.CNAME)
    if (!alias || type === TYPE.CNAME) return found
    const rest = this.resolve(wireToName(alias.data), type, depth + 1)
    return rest && { ...rest, answers: [...found.answers, ...rest.answers] }
  }

  /** Asks from the deepest known cut downwards, and keeps what comes; whether anything did. */
  private fetch(name: Name, type: number, depth: number, now: number): boolean {
    if (this.traits.cutOff) return false
    let addresses: readonly string[] = this.nearest(name, now)
    for (let step = 0; step < STEPS; step++) {
      let message: Message | undefined
      for (const address of addresses) if ((message = this.ask(address, name, type))) break
      if (!message) return false
      const cut =
        message.answers.length === 0 && !message.authoritative
          ? message.authority.filter((each) => each.type === TYPE.NS)
          : []
      if (cut.length === 0) {
        this.keep(name, type, message, now)
        return true
      }
      const next: string[] = []
      for (const { data } of cut) {
        const host = foldName(wireToName(data))
        const glue = message.additional
          .filter((each) => each.type === TYPE.A && foldName(each.owner) === host)
          .map((each) => addressText(each.data))
        next.push(
          ...(glue.length > 0
            ? glue
            : (this.resolve(host, TYPE.A, depth + 1)?.answers ?? []).flatMap((each) =>
                each.type === TYPE.A ? [addressText(each.data)] : [],
              )),
        )
      }
      this.cuts.set(foldName(cut[0]!.owner), { until: now + this.kept(cut[0]!.ttl), addresses: next })
      addresses = next
    }
    return false
  }

  private nearest(name: Name, now: number): readonly string[] {
    const labels = labelsOf(foldName(name))
    for (let i = 0; i < labels.length; i++) {
      const cut = this.cuts.get(`${labels.slice(i).join('.')}.`)
      if (cut && cut.until > now) return cut.addresses
    }
    return this.top
  }

  private kept(ttl: number): number {
    return Math.min(Math.max(ttl, this.traits.floor ?? 0), this.traits.cap ?? Number.POSITIVE_INFINITY)
  }

  private keep(name: Name, type: number, message: Message, now: number): void {
    const sets = new Map<string, MessageRecord[]>()
    for (const record of message.answers) {
      const key = `${foldName(record.owner)} ${record.type}`
      sets.set(key, [...(sets.get(key) ?? []), record])
    }
    for (const [key, records] of sets) {
      const ttl = this.kept(records[0]!.ttl)
      this.sets.set(key, { since: now, until: now + ttl, records: records.map((record) => ({ ...record, ttl })) })
    }
    const soa = message.authority.find((each) => each.type === TYPE.SOA)
    const last = message.answers.filter((each) => each.type === TYPE.CNAME).at(-1)
    const denied = last && type !== TYPE.CNAME ? foldName(wireToName(last.data)) : foldName(name)
    if (!soa || sets.has(`${denied} ${type}`)) return
    const ttl = this.kept(negativeTtl(soa.ttl, soa.data))
    const key = message.rcode === NXDOMAIN ? `${denied} *` : `${denied} ${type}`
    this.denials.set(key, { since: now, until: now + ttl, records: [{ ...soa, ttl }], rcode: message.rcode })
  }
}

function aged({ since, records }: Kept, now: number): MessageRecord[] {
  const age = Math.floor(now - since)
  return records.map((record) => ({ ...record, ttl: Math.max(0, record.ttl - age) }))
}

/** The network on loopback: each address at a port of its own. */
export async function serveNetwork(network: Network): Promise<{ ports: Map<string, Served>; close(): Promise<void> }> {
  const ports = new Map<string, Served>()
  for (const address of network.addresses) {
    const responder: Responder = (query, _id, udp) => network.reply(address, query, udp)
    ports.set(address, await serve(responder, { latencyMs: () => network.latencyOf(address) }))
  }
  return {
    ports,
    async close() {
      await Promise.all([...ports.values()].map((each) => each.close()))
    },
  }
}

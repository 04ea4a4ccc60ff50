/** The program’s clock and the way it asks, played by a world: what stands in for a network where a history is played. */
import type { Observation, Vantage } from '../../src/core/confirm/observation.ts'
import type { How } from '../../src/core/message/encode.ts'
import { emptyMessage, type Message, type MessageRecord } from '../../src/core/message/message.ts'
import { nameToWire } from '../../src/core/names/name.ts'
import { parseRdata } from '../../src/core/records/rdata.ts'
import { parseType, typeText } from '../../src/core/records/types.ts'
import { type Answer, atResolver, atServer, pass, type Version, type World } from './dns.ts'

export const ZONE = 'hollowmere.example.'
const ORIGIN = nameToWire(ZONE) as Uint8Array
const HOSTS = 'upland-dns.example.'

/** What came back for a name and type, from whom, as it came. */
export interface Came {
  party: string
  name: string
  type: string
  answer: Answer
}

/** The world that is played now, how wrong the program’s clock is, and what came in this call. */
export const playing: { world: World; skew: number; came: Came[] } = {
  world: undefined as unknown as World,
  skew: 0,
  came: [],
}

export const CLOCK = {
  now: (): number => playing.world.now + playing.skew,
  elapsed: (): number => playing.world.now * 1000,
  after(ms: number, work: () => void): () => void {
    let isStopped = false
    queueMicrotask(() => {
      if (isStopped) return
      pass(playing.world, playing.world.now + Math.round(ms / 1000))
      work()
    })
    return () => void (isStopped = true)
  },
}

/** `192.0.2.50` is ns0, `192.0.2.90` the zone above, `192.0.2.100` the first resolver. */
export const ADDRESS = {
  server: (i: number) => `192.0.2.${50 + i}`,
  parent: '192.0.2.90',
  resolver: (i: number) => `192.0.2.${100 + i}`,
}
const partyOf = (address: string): string => {
  const last = Number(address.split('.')[3])
  return last === 90 ? 'parent' : last >= 100 ? `r${last - 100}` : `ns${last - 50}`
}

const absolute = (label: string): string => (label === '@' ? ZONE : label.endsWith('.') ? label : `${label}.${ZONE}`)
/** `www`, `@`; names of other zones stay as they are. */
export const labelOf = (name: string): string => {
  const folded = name.toLowerCase()
  return folded === ZONE ? '@' : folded.endsWith(`.${ZONE}`) ? folded.slice(0, -ZONE.length - 1) : folded
}

const record = (owner: string, type: string, ttl: number, text: string): MessageRecord => {
  const number = parseType(type)!
  return {
    owner: absolute(owner),
    type: number,
    class: 1,
    ttl,
    data: (parseRdata(number, text, ORIGIN) as { wire: Uint8Array }).wire,
  }
}
const nsRecords = (names: readonly string[], ttl: number): MessageRecord[] =>
  names.map((each) => record('@', 'NS', ttl, `${each}.${HOSTS}`))
export const soaText = ({ serial, refresh, retry, minimum }: Version): string =>
  `ns0.${HOSTS} h ${serial} ${refresh} ${retry} 1209600 ${minimum}`

/** The times alone are looked at in it. */
function signature(version: Version): MessageRecord {
  const signer = nameToWire(ZONE) as Uint8Array
  const data = new Uint8Array(18 + signer.length + 4)
  const view = new DataView(data.buffer)
  view.setUint16(0, 6)
  view.setUint32(8, version.signedUntil!)
  data.set(signer, 18)
  return { owner: ZONE, type: 46, class: 1, ttl: version.soaTtl, data }
}

/** Stands in for those who ask. */
export class PlayedAsker {
  private readonly vantage: Vantage

  constructor(vantage: Vantage) {
    this.vantage = vantage
  }

  async ask(name: string, type: number, how: How = {}): Promise<Observation> {
    const { world } = playing
    const base = { vantage: this.vantage.label, transport: 'udp' as const, tookMs: 1, at: CLOCK.now() }
    const message = reply(world, partyOf(this.vantage.address), labelOf(name), typeText(type), how)
    if (!message) return { ...base, trouble: { kind: 'no-reply', detail: 'no reply' } }
    return { ...base, message: { ...emptyMessage(1), response: true, ...message } }
  }

  close(): void {}
}

function reply(world: World, party: string, name: string, type: string, how: How): Partial<Message> | undefined {
  if (party === 'parent') {
    if (type === 'DS')
      return {
        authoritative: true,
        answers: world.parent.secured ? [record('@', 'DS', 60, `1 13 2 ${'ab'.repeat(32)}`)] : [],
      }
    return { authority: nsRecords(world.parent.names, world.parent.ttl) }
  }
  const isServer = party.startsWith('ns')
  if (!isServer && name === 'example.')
    return {
      recursionAvailable: true,
      answers: type === 'NS' ? [{ ...record('@', 'NS', 60, 'ns.registry.'), owner: 'example.' }] : [],
    }
  const server = isServer ? world.servers[party]! : undefined
  if (!server && how.recursion === false) return { recursionAvailable: true, rcode: 5 }
  const isOwn = name === '@' && (type === 'SOA' || type === 'NS')
  if (server && isOwn && server.up && !server.refuses && server.copy) {
    const { copy } = server
    playing.came.push({ party, name, type, answer: { kind: 'data', aliases: [] } })
    if (type === 'NS') return { authoritative: true, answers: nsRecords(copy.ns.names, copy.ns.ttl) }
    const signed = how.dnssecOk && copy.signedUntil !== undefined ? [signature(copy)] : []
    return { authoritative: true, answers: [record('@', 'SOA', copy.soaTtl, soaText(copy)), ...signed] }
  }
  const answer = server ? atServer(server, name, type) : atResolver(world, world.resolvers[party]!, name, type)
  playing.came.push({ party, name, type, answer: structuredClone(answer) })
  return messageOf(world, name, type, answer, server)
}

function messageOf(
  world: World,
  name: string,
  type: string,
  answer: Answer,
  server: { copy: Version | undefined } | undefined,
): Partial<Message> | undefined {
  const base = { authoritative: server !== undefined, recursionAvailable: server === undefined }
  if (answer.kind === 'silent') return undefined
  if (answer.kind === 'refused') return { rcode: 5 }
  if (answer.kind === 'fail') return { ...base, rcode: 2 }
  const answers = answer.aliases.map(({ owner, ttl, to }) => record(owner, 'CNAME', ttl, absolute(to)))
  const end = answer.aliases.at(-1)?.to ?? name
  const edns =
    answer.stale === 'told'
      ? {
          size: 1232,
          dnssecOk: false,
          options: [{ code: 15, data: new Uint8Array([0, answer.kind === 'nx' ? 19 : 3]) }],
        }
      : undefined
  if (answer.set) {
    const values = answer.set.values.map((value) =>
      record(end, type, answer.set!.ttl, type === 'CNAME' ? absolute(value) : value),
    )
    return { ...base, edns, answers: [...answers, ...values] }
  }
  const version = server?.copy ?? world.file
  const soa = answer.bare ? [] : [record('@', 'SOA', server ? version.soaTtl : answer.negative!, soaText(version))]
  return { ...base, edns, rcode: answer.kind === 'nx' ? 3 : 0, answers, authority: soa }
}

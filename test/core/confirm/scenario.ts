/** A small world for confirmations: a zone at two servers, its parent, a resolver, and one clock. Tests read as a script: who serves what, who asks, how much time passes. */

import { Memory } from '../../../src/core/confirm/memory.ts'
import type { Observation } from '../../../src/core/confirm/observation.ts'
import type { Asking, Confirmation, Party, Plan } from '../../../src/core/confirm/plan.ts'
import { type Earlier, questionsFor } from '../../../src/core/confirm/questions.ts'
import { confirmRound } from '../../../src/core/confirm/round.ts'
import type { ConfirmedSet } from '../../../src/core/confirm/status.ts'
import { watch } from '../../../src/core/confirm/watch.ts'
import { decodeMessage } from '../../../src/core/message/decode.ts'
import { encodeMessage, queryOctets } from '../../../src/core/message/encode.ts'
import { answersQuestion } from '../../../src/core/message/message.ts'
import type { Zones } from '../../../src/core/model/zones.ts'
import { parseType, typeText } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import type { Follow, Front } from '../../../src/core/rules/rule.ts'
import { type Faults, Network, type ResolverTraits } from '../../../src/sim/network.ts'

export const ADDRESS = {
  parent: '198.51.100.1',
  ns1: '198.51.100.53',
  ns2: '203.0.113.53',
  old: '192.0.2.153',
  resolver: '192.0.2.3',
} as const
type Who = keyof typeof ADDRESS

/** 2026-11-23 08:00:00 UTC. */
export const START = 1795420800

const elsewhere = {
  'upland-dns.example': '@ NS ns1\n@ NS ns2\nns1 A 198.51.100.53\nns2 A 203.0.113.53\nns9 A 192.0.2.153',
}

const TIMERS = '7200 900 1209600 900'

function zonesOf(serial: number, body: string, head: string, timers = TIMERS): Zones {
  const text = `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster ${serial} ${timers}\n${head}\n${body}`
  return exampleZones({
    whole: true,
    zones: {
      'hollowmere.example': text,
      ...Object.fromEntries(
        Object.entries(elsewhere).map(([zone, lines]) => [zone, `$TTL 3600\n@ SOA ns1 h 1 2 3 4 900\n${lines}`]),
      ),
    },
  })
}

const HEAD = '@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.'

export interface Seen {
  status: string
  says: string
  /** Seconds from the time of asking. */
  until?: number
  atMost?: boolean
  verdicts: Record<string, string>
  causes: string[]
  set: ConfirmedSet
}

export class Scenario {
  now = START
  readonly network: Network = new Network(() => this.now)
  readonly log: object[] = []
  memory = new Memory()
  private serial = 1
  private intended!: Zones
  readonly earlier: Earlier[] = []
  private head = HEAD
  private plans = 0
  /** Since when every state is known: for long, unless the file is edited by hand. */
  private knownSince: number | undefined
  around: { follows?: Follow[]; fronts?: Front[] } = {}
  /** What was asked by a confirmation, and when. */
  readonly sent: { at: number; party: string; name: string; type: number }[] = []

  constructor(body: string, resolver: ResolverTraits = {}) {
    this.delegates(HEAD)
    this.intended = zonesOf(1, body, this.head)
    this.serves('ns1')
    this.serves('ns2')
    this.network.resolver(ADDRESS.resolver, [ADDRESS.parent], resolver)
  }

  /** What the parent zone says. */
  delegates(head: string): void {
    const cut = head.replace(/^@/gm, 'hollowmere')
    const text = `$TTL 86400\n@ SOA ns.registry h 1 2 3 4 900\n@ NS ns.registry\n${cut}\nupland-dns NS ns1.upland-dns.example.\nns1.upland-dns A 198.51.100.53\nns2.upland-dns A 203.0.113.53\nns9.upland-dns A 192.0.2.153`
    this.network.server(ADDRESS.parent, exampleZones({ whole: true, zones: { example: text } }))
  }

  /** The zone file is changed; what it was is kept, unless it was changed by hand. */
  intends(body: string, head = this.head, byHand = false): this {
    if (byHand) this.knownSince = this.now
    else {
      this.earlier.unshift({ until: this.now, zones: this.intended, zone: this.intended.zones[0]! })
      this.knownSince ??= START - 30 * 86_400
    }
    this.head = head
    this.intended = zonesOf(++this.serial, body, head)
    return this
  }

  /** Somebody answers by themselves, always with these records. */
  answersItself(who: Who, body: string, faults: Faults = { intercepted: true }): this {
    return this.serves(who, { body, serial: 1 }, faults)
  }

  /** A server loads the intended zone, or another text with a serial of its own. */
  serves(who: Who, other?: { body: string; serial: number; head?: string; timers?: string }, faults?: Faults): this {
    this.network.server(
      ADDRESS[who],
      other ? zonesOf(other.serial, other.body, other.head ?? this.head, other.timers) : this.intended,
      faults,
    )
    return this
  }

  ails(who: Who, faults: ResolverTraits): this {
    this.network.ails(ADDRESS[who], faults)
    return this
  }

  /** Somebody asks the resolver. */
  asks(name: string, type: string): this {
    void this.reply(ADDRESS.resolver, `${name}.`, parseType(type)!, {})
    return this
  }

  passes(seconds: number): this {
    this.now += seconds
    return this
  }

  private reply(address: string, name: string, type: number, how: object): Observation {
    const query = queryOctets(7, name, type, how)
    const came = this.network
      .reply(address, decodeMessage(query) as never, false)
      .map((each) => (each instanceof Uint8Array ? each : encodeMessage(each)))
      .find((octets) => answersQuestion(octets, query))
    const base = { vantage: '', transport: 'udp', tookMs: 1, at: this.now } as const
    if (!came) return { ...base, trouble: { kind: 'no-reply', detail: 'no reply' } }
    const message = decodeMessage(came)
    return 'garbled' in message
      ? { ...base, trouble: { kind: 'garbled', detail: message.garbled } }
      : { ...base, message }
  }

  asking(stopAt = Number.POSITIVE_INFINITY): Asking & { stopped(): boolean } {
    return {
      ask: async (party, name, type, how) => {
        this.sent.push({ at: this.now, party, name, type })
        return { ...this.reply(ADDRESS[party as Who], name, type, how), vantage: party }
      },
      now: () => this.now,
      sleep: async (seconds) => void (this.now += seconds),
      stopped: () => this.now >= stopAt,
    }
  }

  plan(options: Partial<Plan> = {}): Plan {
    const zone = this.intended.zones[0]!
    const fresh = `fresh-${++this.plans}`
    const { questions } = questionsFor(this.intended, zone, fresh, { ...this.around, earlier: this.earlier })
    const parties: Party[] = [
      { label: 'ns1', role: 'authoritative', server: 'ns1.upland-dns.example.' },
      { label: 'ns2', role: 'authoritative', server: 'ns2.upland-dns.example.' },
      { label: 'resolver', role: 'resolver' },
    ]
    return {
      zones: this.intended,
      zone,
      questions,
      earlier: this.earlier,
      knownSince: this.knownSince,
      parties,
      parents: [{ label: 'parent' }],
      memory: this.memory,
      fresh,
      samples: 1,
      early: false,
      ...options,
    }
  }

  /** Confirms, notes it in the log, and says what came of each set: `www A`, `@ MX`. */
  async confirm(options: Partial<Plan> = {}): Promise<Record<string, Seen> & { remarks: string[] }> {
    const plan = this.plan(options)
    const confirmation = await confirmRound(plan, this.asking())
    this.note(plan, confirmation!)
    return this.read(confirmation)
  }

  note(plan: Plan, { own, sets, parties, at, state }: Confirmation): void {
    this.log.push(
      ...this.memory.note({
        zone: plan.zone,
        own,
        sets,
        vantages: parties.map(({ label }) => label),
        state,
        now: at,
      }),
    )
  }

  async watch(seconds: number): Promise<Confirmation[]> {
    const plan = this.plan()
    return watch([plan], this.asking(), {
      deadline: this.now + seconds,
      stopped: () => false,
      round: ([confirmation]) => this.note(plan, confirmation!),
    })
  }

  read({ own = [], sets, remarks, at }: Confirmation): Record<string, Seen> & { remarks: string[] } {
    const seen = Object.fromEntries(
      [...own, ...sets].map((set): [string, Seen] => {
        const { question, status, answers, causes } = set
        const owner = question.owner.replace(/\.?hollowmere\.example\.$/, '') || '@'
        const until = status.until === undefined ? undefined : status.until - at
        const verdicts = Object.fromEntries(answers.map((each) => [each.vantage, each.verdict]))
        return [
          `${owner} ${typeText(question.type)}`,
          {
            status: status.word,
            says: status.text,
            until,
            atMost: status.atMost,
            verdicts,
            causes: causes.map(({ kind }) => kind),
            set,
          },
        ]
      }),
    )
    return Object.assign(seen, { remarks: remarks.map(({ what }) => what) }) as never
  }
}

/** Zones as their servers have them: by zone transfer where that is allowed, else set by set. */
import type { SetPreview } from '../../core/change/change-set.ts'
import { differences, type Sets, setKey, setsOf, soaOf } from '../../core/change/difference.ts'
import { cameSet, isSilent } from '../../core/confirm/came.ts'
import { Memory } from '../../core/confirm/memory.ts'
import type { Vantage } from '../../core/confirm/observation.ts'
import type { Confirmation } from '../../core/confirm/plan.ts'
import { type Earlier, questionsFor } from '../../core/confirm/questions.ts'
import { confirmAll } from '../../core/confirm/round.ts'
import type { Key } from '../../core/message/key.ts'
import type { RecordSet, Zone } from '../../core/model/zones.ts'
import { bare, foldName, type Name, nameToWire } from '../../core/names/name.ts'
import { TYPE } from '../../core/records/types.ts'
import { Asker } from '../../net/ask.ts'
import { type Failed, fetchZone } from '../../net/transfer.ts'
import { CLOCK, now } from '../clock.ts'
import type { Confirmed, ZonePlan } from '../output/confirmation/confirmed.ts'
import { counted } from '../output/page.ts'
import { Made } from './adopt/made.ts'
import { Askers } from './confirm/askers.ts'
import { type ConfirmOptions, plan } from './confirm/plans.ts'
import type { Chosen } from './source.ts'
import { limitOf, rateOf } from './whom.ts'

/** One server, and where it differs: from what it has to what is intended. */
export interface AtServers {
  server: string
  sets: SetPreview[]
  /** Whether it handed all of the zone over: else only what is known here was asked for. */
  whole: boolean
  /** Sets that it was seen to have or not to have, and those that it gave no usable answer for: by `setKey`. */
  seen: ReadonlySet<string>
  unseen: ReadonlySet<string>
}

export interface ZoneAtServers {
  zone: Zone
  /** Of the first server. */
  serial?: number
  servers: AtServers[]
  /** Who could not be asked, or not for all of it: in words. */
  unreached: string[]
  /** Sets that nobody gave a usable answer for. */
  unanswered: number
}

/** Zones that are transferred at a time. */
const AT_A_TIME = 16

export async function serverStates(
  what: string | undefined,
  source: Chosen,
  options: ConfirmOptions & { noTransfer?: boolean; earlier?: readonly Earlier[]; keyOf?: KeyOf },
): Promise<ZoneAtServers[]> {
  const askers = new Askers({ limitMs: limitOf(options), rate: rateOf(options.rate) })
  const confirmed: Confirmed = { plans: [], confirmations: [], vantages: askers.vantages, samples: 1 }
  try {
    const how: ConfirmOptions = { ...options, onlyAuthoritative: options.at === undefined, early: true }
    await plan(what, how, source, new Memory(), askers, confirmed)
    // Resolvers of bramblefront.yaml are none of them.
    if (options.at === undefined)
      for (const each of confirmed.plans) each.parties = each.parties.filter(({ role }) => role === 'authoritative')
    for (const each of confirmed.plans) each.earlier = [...each.earlier, ...(options.earlier ?? [])]
    const transfers = options.noTransfer
      ? confirmed.plans.map((): Transfers => new Map())
      : await transferred(confirmed.plans, askers.vantages, limitOf(options), options.keyOf)
    const asked = confirmed.plans.map((each, i) => asking(each, transfers[i]!, source))
    const confirmations = await confirmAll(asked, askers.asking(new AbortController().signal))
    return confirmed.plans.map((each, i) => atServers(each, transfers[i]!, confirmations[i]!))
  } finally {
    askers.close()
  }
}

/** A zone as a server handed it over. */
interface Transfer extends Earlier {
  serial: number
  soa?: RecordSet
  sets: Sets
}
type Transfers = Map<string, Transfer>
/** The key that a server hands a zone over for. */
export type KeyOf = (vantage: Vantage, zone: Zone) => Key | undefined

/** What the servers of each zone hand over. */
async function transferred(
  plans: readonly ZonePlan[],
  vantages: ReadonlyMap<string, Vantage>,
  limitMs: number,
  keyOf: KeyOf = () => undefined,
): Promise<Transfers[]> {
  const found = plans.map((): Transfers => new Map())
  const steps = plans.flatMap(({ zone, parties }, i) => parties.map(({ label }) => ({ zone, label, i })))
  let next = 0
  const worker = async (): Promise<void> => {
    while (next < steps.length) {
      const { zone, label, i } = steps[next++]!
      const vantage = vantages.get(label)
      const transfer = vantage && (await transferOf(vantage, foldName(zone.name), limitMs, keyOf(vantage, zone)))
      if (transfer && !('failed' in transfer)) found[i]!.set(label, transfer)
    }
  }
  await Promise.all(Array.from({ length: AT_A_TIME }, worker))
  return found
}

/** All of a transfer may take so long, as long as it goes on, in milliseconds. */
const WHOLE_MS = 60_000

/** A zone as a server hands it over, or why it does not. `limitMs` in milliseconds: so long it may keep us waiting. */
export async function transferOf(vantage: Vantage, zone: Name, limitMs: number, key?: Key): Promise<Transfer | Failed> {
  if (vantage.transport === 'https') return { failed: 'zones are not handed over by HTTPS' }
  const made = new Made(zone)
  try {
    const fetched = await fetchZone({ ...vantage, transport: vantage.transport === 'tls' ? 'tls' : 'tcp' }, zone, {
      clock: CLOCK,
      limitMs,
      wholeMs: Math.max(limitMs, WHOLE_MS),
      key,
      take: (records) => made.take(records),
    })
    if ('failed' in fetched) return fetched
    const { zones } = made.whole()
    const there = zones.zones[0]!
    return {
      serial: fetched.serial,
      soa: soaOf(zones, there),
      zones,
      zone: there,
      sets: setsOf(zones, there),
      until: now(),
    }
  } finally {
    made.drop()
  }
}

/** The SOA record that a server answers with. `limitMs` in milliseconds. */
export async function soaAt(vantage: Vantage, zone: Name, limitMs: number): Promise<RecordSet | undefined> {
  const asker = new Asker(vantage, CLOCK, { limitMs })
  try {
    const { message } = await asker.ask(zone, TYPE.SOA, { recursion: false })
    const found = message?.answers.find(({ type, owner }) => type === TYPE.SOA && foldName(owner) === foldName(zone))
    return found && { owner: zone, type: TYPE.SOA, ttl: found.ttl, data: [found.data] }
  } finally {
    asker.close()
  }
}

/** What is still to be asked of whom: those who handed nothing over, also for what others have and nobody intends. */
function asking(made: ZonePlan, transfers: Transfers, { workspace }: Chosen): ZonePlan {
  const { zones, zone, fresh } = made
  const earlier = [...made.earlier, ...transfers.values()]
  const { questions } = questionsFor(zones, zone, fresh, { ...workspace?.around, earlier })
  const parties = made.parties.filter(({ label }) => !transfers.has(label))
  return { ...made, questions: parties.length === 0 ? [] : questions, parties }
}

function atServers({ zone, zones, parties }: ZonePlan, transfers: Transfers, asked: Confirmation): ZoneAtServers {
  const intended = setsOf(zones, zone)
  const servers: AtServers[] = []
  const unreached: string[] = []
  for (const { label } of parties) {
    const transfer = transfers.get(label)
    if (transfer) {
      const seen = new Set([...transfer.sets.keys(), ...intended.keys()])
      servers.push({ server: label, sets: differences(transfer.sets, intended), whole: true, seen, unseen: new Set() })
      continue
    }
    const found = bySets(zone, intended, asked, label)
    if (found.seen.size === 0) unreached.push(`${label} of ${bare(zone.name)}`)
    else if (found.unseen.size > 0) unreached.push(`${counted(found.unseen.size, 'record set')} at ${label}`)
    if (found.seen.size > 0) servers.push({ server: label, whole: false, ...found })
  }
  const [first] = transfers.values()
  const serial = first?.serial ?? asked.state.servers.find(({ soa }) => soa)?.soa?.serial
  const unanswered = transfers.size > 0 ? 0 : asked.sets.filter(({ answers }) => answers.every(isSilent)).length
  return { zone, serial, servers, unreached, unanswered }
}

/** Where one that was asked set by set differs, and which sets it gave no usable answer for. */
function bySets(
  zone: Zone,
  intended: Sets,
  { sets, state }: Confirmation,
  label: string,
): Pick<AtServers, 'sets' | 'seen' | 'unseen'> {
  const found: SetPreview[] = []
  const seen = new Set<string>()
  // What was not asked for (what a cut hides, for example) is not known either.
  const unseen = new Set(intended.keys())
  for (const { question, answers } of sets) {
    const answer = answers.find(({ vantage }) => vantage === label)
    const { owner, type } = question
    const key = setKey(question)
    if (!answer || isSilent(answer)) {
      unseen.add(key)
      continue
    }
    seen.add(key)
    unseen.delete(key)
    // What a resolver has left of a TTL says nothing.
    const isOther =
      answer.verdict !== 'as-intended' || (answer.otherTtl !== undefined && answer.role === 'authoritative')
    if (!isOther || question.follow) continue
    const before = cameSet(question, answer)
    if (before || question.intended) found.push({ owner, type, before, after: question.intended })
  }
  const ns = state.servers.find(({ vantage }) => vantage === label)
  const nsKey = setKey({ owner: zone.name, type: TYPE.NS })
  const own = intended.get(nsKey)
  if (ns?.ns) {
    seen.add(nsKey)
    unseen.delete(nsKey)
    const there: RecordSet = {
      owner: zone.name,
      type: TYPE.NS,
      ttl: ns.nsTtl ?? own?.ttl ?? 0,
      data: ns.ns.map((name) => nameToWire(name) as Uint8Array),
    }
    const both = own ? new Map([['', own]]) : new Map()
    found.push(...differences(new Map([['', there]]), both))
  }
  return { sets: found, seen, unseen }
}

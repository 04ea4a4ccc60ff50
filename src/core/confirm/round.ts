/** A confirmation: whom to ask what in which order, and what the answers come to. Asking, the clock and waiting are handed in. */
import { type Find, findAsked, findIntendedThenAsked } from '../knowledge/find.ts'
import type { How } from '../message/encode.ts'
import type { Message } from '../message/message.ts'
import type { Zone, Zones } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import type { Rdata } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { frontAt } from '../rules/fronts.ts'
import { type Cause, causesOf, type Probe, probesFor } from './causes.ts'
import { delegationUntil, longestNsTtl } from './delegation.ts'
import { expiryOf, type History, historyOf, matters } from './history.ts'
import type { Memory } from './memory.ts'
import { leadNowhere, type Nowhere } from './nowhere.ts'
import type { Observation } from './observation.ts'
import type { Earlier, Question } from './questions.ts'
import { type ConfirmedSet, statusOf, statusOfRight } from './status.ts'
import { type Judged, judge, judgeRight, judgeTtls, type Known, note, type Role } from './verdict.ts'
import {
  copiesOf,
  delegationIn,
  glueIn,
  intendedState,
  type Remark,
  remarksOn,
  type ServerState,
  serverState,
  type ZoneState,
} from './zone-state.ts'

/** One of those that are asked. Without a role, it is found out by asking. */
export interface Party {
  label: string
  role?: Role
  /** The name of the server, where it is known by one. */
  server?: Name
}

/** The outside, as it is handed in. Times are seconds since 1970. */
export interface Asking {
  ask(party: string, name: Name, type: number, how: How): Promise<Observation>
  now(): number
  /** Waits; returns earlier when everything shall stop. */
  sleep(seconds: number): Promise<void>
  /** Called after each question for a set. */
  progress?(): void
}

export interface Plan {
  zones: Zones
  zone: Zone
  questions: readonly Question[]
  /** How the zone was before, newest first. */
  earlier: readonly Earlier[]
  /** Whether there were others that are not among them. */
  moreEarlier?: boolean
  parties: readonly Party[]
  /** Servers of the parent zone, for its delegation. */
  parents: readonly Party[]
  memory: Memory
  /** The zone is kept at a host that numbers it: serials are compared between its servers only. */
  hosted?: boolean
  /** A label that cannot exist. */
  fresh: string
  /** How often each resolver is asked. */
  samples: number
  /** Ask resolvers for sets that not all authoritative servers have, too. */
  early: boolean
  /** Ask no resolver at all. */
  onlyAuthoritative?: boolean
}

export interface Confirmation {
  at: number
  state: ZoneState
  remarks: Remark[]
  sets: ConfirmedSet[]
  /** Sets that are confirmed and lead nowhere. */
  nowhere: Nowhere[]
  /** Labels of those that were asked, with their roles. */
  parties: (Party & { role: Role })[]
}

/** Questions for sets under way at a time; each vantage has its own bound below that. */
const WORKERS = 256
/** An answer of a resolver with so low a TTL may be an expired one (RFC 8767 §5 has 30 s). */
const STALE_TTL = 30
/** Whether a TTL decreases is seen after this many seconds. */
const SECOND_LOOK = 2
/** Causes are looked for with so many sets at most. */
const EXAMINED = 25

/** Zones that are asked about at a time. */
const ZONES = 16

/** Runs `work` on each item, so many at a time. */
async function each<T>(
  items: readonly T[],
  work: (item: T, index: number) => Promise<unknown>,
  workers = WORKERS,
): Promise<void> {
  let next = 0
  const worker = async (): Promise<void> => {
    while (next < items.length) {
      const index = next++
      await work(items[index]!, index)
    }
  }
  await Promise.all(Array.from({ length: Math.min(workers, items.length) }, worker))
}

/** One round over the sets of all plans, some zones at a time. */
export async function confirmAll(
  plans: readonly Plan[],
  asking: Asking,
  before?: readonly Confirmation[],
): Promise<Confirmation[]> {
  const confirmations = new Array<Confirmation>(plans.length)
  await each(
    plans,
    async (plan, i) => {
      confirmations[i] = await confirmRound(plan, asking, before?.[i])
    },
    ZONES,
  )
  return confirmations
}

/** When an answer that is not the intended one can have changed, in seconds since 1970; Infinity for one that is intended. */
export function dueAt({ verdict, role, ttl, at }: Judged): number {
  if (verdict === 'as-intended' || verdict === 'not-tried') return Number.POSITIVE_INFINITY
  if (role === 'authoritative') return at + POLL
  if (verdict === 'earlier-answer' || verdict === 'different' || verdict === 'aliased' || verdict === 'absent')
    return at + Math.max(LEAST, ttl ?? 0)
  return at + RETRY
}
/** Never more often than every few seconds; authoritative servers can change at any time; failures are kept for a while (RFC 8767 §5, RFC 9520 §3.2). */
export const LEAST = 5
const POLL = 15
const RETRY = 30

/** One round over all sets. With `before`, only what can have changed since is asked for again. */
export async function confirmRound(plan: Plan, asking: Asking, before?: Confirmation): Promise<Confirmation> {
  const parties = before?.parties ?? (await withRoles(plan, asking))
  const servers = parties.filter(({ role }) => role === 'authoritative')
  const resolvers = parties.filter(({ role }) => role === 'resolver')
  const open = before?.sets.some(({ status }) => status.word !== 'confirmed') ?? true
  const state = before && !open ? before.state : await zoneState(plan, asking, servers)
  const earlierSets = before && new Map(before.sets.map((set) => [set.question, set]))
  const known = new Looks(plan, asking, resolvers, servers)
  const answersTo = new Map<Question, Judged[]>(plan.questions.map((question) => [question, []]))
  const kept = (question: Question, party: Party): Judged[] =>
    earlierSets?.get(question)?.answers.filter(({ vantage }) => vantage === party.label) ?? []

  // Authoritative servers first: asking a cache for what is not there yet plants the very denial that one waits for.
  const askOf = async (question: Question, party: Party & { role: Role }): Promise<void> => {
    const came = answersTo.get(question)!
    const judged = before ? kept(question, party) : []
    if (judged.length > 0 && judged.every((one) => dueAt(one) > asking.now())) came.push(...judged)
    else {
      for (let i = 0; i < plan.samples; i++) came.push(await known.observe(question, party))
      if (plan.samples > 1) noteSamples(came.filter(({ vantage }) => vantage === party.label))
    }
    asking.progress?.()
  }
  const askAll = (questions: readonly Question[], parties: readonly (Party & { role: Role })[]): Promise<void> =>
    each(questions, (question) =>
      parties.length === 1 ? askOf(question, parties[0]!) : Promise.all(parties.map((party) => askOf(question, party))),
    )
  await askAll(plan.questions, servers)
  if (plan.questions.some((question) => answersTo.get(question)!.some(({ otherTtl }) => otherTtl !== undefined)))
    for (const { label } of servers)
      judgeTtls(
        plan.questions.flatMap((question) =>
          answersTo
            .get(question)!
            .filter(({ vantage }) => vantage === label)
            .map((answer) => ({ question, answer })),
        ),
      )
  const isPublished = (question: Question): boolean =>
    answersTo.get(question)!.every(({ verdict }) => verdict === 'as-intended' || verdict === 'not-tried')
  const forResolvers = plan.questions.filter((each) => !each.referral && (plan.early || isPublished(each)))
  await askAll(resolvers.length > 0 ? forResolvers : [], resolvers)

  const now = asking.now()
  const copies = copiesOf(plan, state, now)
  const remarks = remarksOn(state, copies, now, plan.zones)
  const delegation = delegationUntil(plan, state.intended, longestNsTtl(state), now)
  const asked = new Set(forResolvers)
  const sets = plan.questions.map((question): ConfirmedSet => {
    const came = answersTo.get(question)!
    const answers =
      parties.length === 1 ? came : parties.flatMap(({ label }) => came.filter(({ vantage }) => vantage === label))
    const { states, publishedAt } = known.history(question)
    const removed = !question.intended && !question.follow
    const resolversLeft = resolvers.length > 0 && !asked.has(question) && !question.referral
    const status =
      statusOfRight(answers, { removed, resolversLeft }) ??
      statusOf(answers, {
        now,
        publishedAt,
        past: states.filter((each) => matters(each, question)),
        complete: plan.earlier.length > 0 && !plan.moreEarlier,
        ttl: question.intended?.ttl ?? question.negativeTtl ?? 0,
        delegation,
        copies,
        intendedSerial: state.intended.soa?.serial,
        since: (vantage, verdict) => plan.memory.since(question, vantage, verdict),
        promised: (vantage, verdict) => plan.memory.promised(question, vantage, verdict),
        removed,
        resolversLeft,
      })
    return {
      question,
      answers,
      status,
      ...(publishedAt === undefined ? {} : { publishedAt }),
      causes: status.word === 'confirmed' ? [] : (earlierSets?.get(question)?.causes ?? []),
    }
  })
  const result = { at: now, state, remarks, sets, parties, nowhere: await known.leadNowhere(sets) }
  const examined = sets
    .filter(({ status, causes }) => !['confirmed', 'unreachable'].includes(status.word) && causes.length === 0)
    .slice(0, EXAMINED)
  await each(examined, async (set) => {
    set.causes = await examine(plan, asking, result, set, known)
  })
  return result
}

/** Several samples of one vantage: a TTL that rises at a resolver, or different answers of a server, mean that several answer at its address. */
function noteSamples(samples: readonly Judged[]): void {
  if (samples.length < 2) return
  const { role } = samples[0]!
  const rises = samples.some(
    ({ ttl }, i) => i > 0 && ttl !== null && samples[i - 1]!.ttl !== null && ttl > samples[i - 1]!.ttl!,
  )
  const differ = samples.some(({ verdict }) => verdict !== samples[0]!.verdict)
  const why =
    role === 'resolver'
      ? rises && '; the TTL rises between them, so several caches answer at this address'
      : differ && '; they differ, so several servers answer at this address'
  note(samples[0]!, `${samples.length} samples${why || ''}`)
}

/** Finds out who is a server of the zone: whoever answers for its SOA with authority, without asking others; or fails to, and offers no recursion. */
async function withRoles(
  { parties, zone, onlyAuthoritative }: Plan,
  asking: Asking,
): Promise<(Party & { role: Role })[]> {
  const known = await Promise.all(
    parties.map(async (party) => {
      if (party.role) return { ...party, role: party.role }
      const { message } = await asking.ask(party.label, zone.name, TYPE.SOA, { recursion: false })
      const isServer =
        message &&
        // Who neither has authority nor offers recursion is no resolver either: it is judged as what it should be.
        ((message.authoritative && message.answers.length > 0) || !message.recursionAvailable)
      return { ...party, role: isServer ? 'authoritative' : 'resolver' } as const
    }),
  )
  return onlyAuthoritative ? known.filter(({ role }) => role === 'authoritative') : known
}

async function zoneState(
  { zones, zone, parents, hosted }: Plan,
  asking: Asking,
  servers: readonly Party[],
): Promise<ZoneState> {
  const how = { recursion: false }
  const [states, delegations] = await Promise.all([
    Promise.all(
      servers.map(async ({ label, server }): Promise<ServerState> => {
        const [soa, ns] = await Promise.all([
          asking.ask(label, zone.name, TYPE.SOA, how),
          asking.ask(label, zone.name, TYPE.NS, how),
        ])
        return serverState(zone, label, server, soa, ns)
      }),
    ),
    Promise.all(
      parents.map(async ({ label }) => {
        const { message } = await asking.ask(label, zone.name, TYPE.NS, how)
        const found = delegationIn(zone, message)
        return found ? [{ vantage: label, ...found, glue: glueIn(zone, message!) }] : []
      }),
    ),
  ])
  return { intended: intendedState(zones, zone, hosted), servers: states, parents: delegations.flat() }
}

/** Asking for sets, with the second looks that some answers need; remembers what serves many of them. */
class Looks {
  private readonly plan: Plan
  private readonly asking: Asking
  private readonly histories = new Map<Question, History>()
  private readonly find: Find
  private readonly findOutside: Find | undefined
  /** The data that came for sets that are not as intended. */
  readonly came = new Map<Question, { party: Party; data: Rdata[]; denied: boolean; nodata: boolean }[]>()

  constructor(plan: Plan, asking: Asking, resolvers: readonly Party[], servers: readonly Party[]) {
    this.plan = plan
    this.asking = asking
    const whom = [...resolvers, ...servers].map(({ label }) => label)
    const asked = findAsked(whom.map((label) => (name, type) => asking.ask(label, name, type, {})))
    this.find = findIntendedThenAsked(plan.zones, asked)
    if (resolvers.length > 0)
      this.findOutside = findAsked(
        resolvers.map(
          ({ label }) =>
            (name, type) =>
              asking.ask(label, name, type, {}),
        ),
      )
  }

  /** Which of the confirmed sets lead nowhere, where there are resolvers to ask for names outside your zones. */
  async leadNowhere(sets: readonly ConfirmedSet[]): Promise<Nowhere[]> {
    if (!this.findOutside) return []
    const confirmed = sets.filter(({ status }) => status.word === 'confirmed').map(({ question }) => question)
    return leadNowhere(this.plan.zones, confirmed, this.findOutside)
  }

  history(question: Question): History {
    let history = this.histories.get(question)
    if (!history) {
      history = historyOf(question, this.plan.earlier, this.plan.memory.sightings(question))
      // Few sets were ever otherwise; of the others there is nothing to remember.
      if (history.states.length > 0) this.histories.set(question, history)
    }
    return history
  }

  /** Asks one for a set, and judges what comes; with second looks where the answer is not the intended one. */
  observe(question: Question, party: Party & { role: Role }): Promise<Judged> {
    const { label, role } = party
    const how: How = role === 'resolver' ? OF_RESOLVER : OF_SERVER
    return this.asking
      .ask(label, question.asked, question.type, how)
      .then(
        (observation) =>
          (observation.plain ? undefined : judgeRight(question, observation, role)) ??
          this.lookAgain(question, party, how, observation),
      )
  }

  private async lookAgain(
    question: Question,
    party: Party & { role: Role },
    how: How,
    observation: Observation,
  ): Promise<Judged> {
    const { asked, type } = question
    const { label, role } = party
    const { states } = this.history(question)
    const known: Known = {
      role,
      zone: this.plan.zone.name,
      // What a server was seen to have, and still has, is no earlier answer unless it was intended once.
      past: role === 'resolver' ? states : states.filter(({ intended }) => intended),
    }
    if (question.follow) Object.assign(known, await this.followedBy(question.follow, type))
    let judged = judge(question, observation, known)
    if (judged.verdict === 'as-intended' && !observation.plain) return judged
    if (judged.verdict === 'failed' && role === 'resolver') {
      const unchecked = (await this.asking.ask(label, asked, type, { ...how, checkingDisabled: true })).message
      if (unchecked && (unchecked.rcode === 0 || unchecked.rcode === 3)) {
        judged.bogus = true
        judged.detail += '; it answers with checking disabled, so the signatures are broken, not the server'
      }
    } else if (judged.verdict === 'absent' && type === TYPE.CNAME && !judged.noName)
      judged = await this.flattened(question, party, judged)
    if (this.deservesSecondLook(question, judged)) {
      await this.asking.sleep(SECOND_LOOK)
      const again = await this.asking.ask(label, asked, type, how)
      if (again.message) judged = judge(question, again, { ...known, before: observation })
    }
    if (observation.plain) note(judged, 'it answers only without EDNS (RFC 6891)')
    if (judged.verdict !== 'as-intended') this.keep(question, party, observation.message)
    return judged
  }

  /** Whether an answer may be one that no cache gives: its TTL is that of an expired one, no state of the set allows it, or none is known. */
  private deservesSecondLook(question: Question, { role, verdict, ttl, state, ownAnswer }: Judged): boolean {
    if (role !== 'resolver' || !SECOND_LOOKS.has(verdict) || !ttl || ownAnswer) return false
    const now = this.asking.now()
    const ends = this.history(question)
      .states.filter(({ digest }) => digest === state?.digest)
      .map((each) => expiryOf(each, now))
    return ttl <= STALE_TTL || ends.length === 0 || now + ttl >= Math.max(...ends)
  }

  private keep(question: Question, party: Party, message: Message | undefined): void {
    if (!message) return
    const here = message.answers.filter(
      (record) => record.type === question.type && foldName(record.owner) === foldName(question.asked),
    )
    const kept = this.came.get(question) ?? []
    kept.push({
      party,
      data: here.map(({ data }) => data),
      denied: here.length === 0,
      nodata: here.length === 0 && message.rcode === 0,
    })
    this.came.set(question, kept)
  }

  /** No alias, but perhaps the addresses that it leads to: those of a front, or put there by the host. */
  private async flattened(
    question: Question,
    { label, role }: Party & { role: Role },
    judged: Judged,
  ): Promise<Judged> {
    const how = { recursion: role === 'resolver' }
    const replies = await Promise.all(
      [TYPE.A, TYPE.AAAA].map((type) => this.asking.ask(label, question.asked, type, how)),
    )
    const addresses = replies.flatMap(({ message }, i) =>
      (message?.answers ?? []).filter(({ type }) => type === [TYPE.A, TYPE.AAAA][i]).map(({ data }) => data),
    )
    if (addresses.length === 0) return judged
    const { front } = question
    if (front && addresses.every((address) => frontAt([front], { address })))
      return {
        ...judged,
        verdict: 'as-intended',
        missing: [],
        detail: '',
        notes: [`answered by the web front ${front.label}, with its addresses instead of the CNAME`],
      }
    return {
      ...judged,
      verdict: 'aliased',
      detail:
        'received addresses instead of the intended CNAME: the host resolves the target and answers with its addresses',
    }
  }

  /** The present addresses of a name that others follow: from your zones, else by the first resolver that says, else by a server of the zone. */
  private async followedBy(name: Name, type: number): Promise<Pick<Known, 'followed' | 'nowhere'>> {
    const [asked, other] = await Promise.all(
      [type, type === TYPE.A ? TYPE.AAAA : TYPE.A].map((each) => this.find(name, each)),
    )
    const { outcome, set } = asked!
    const followed = set?.data ?? (outcome === 'no-data' ? [] : undefined)
    return { followed, nowhere: followed?.length === 0 && other!.outcome === 'no-data' }
  }
}

const OF_SERVER: How = { recursion: false }
const OF_RESOLVER: How = { recursion: true }
const SECOND_LOOKS = new Set(['earlier-answer', 'different', 'aliased', 'absent'])

/** Asks a few more questions about a set that is not as intended, and says what it looks like. */
async function examine(
  plan: Plan,
  asking: Asking,
  { parties, state, remarks }: Confirmation,
  set: ConfirmedSet,
  known: Looks,
): Promise<Cause[]> {
  const { question, answers } = set
  const { zones, zone } = plan
  const causes: Cause[] = []
  const behind = remarks.find(({ what }) => what === 'behind')
  const servers = answers.filter(({ role }) => role === 'authoritative')
  const published = servers.length > 0 && servers.every(({ verdict }) => verdict === 'as-intended')
  const problem = known.came.get(question)?.[0]
  if (behind && servers.some(({ verdict }) => verdict === 'as-intended') && !published)
    causes.push({
      kind: 'secondary-behind',
      text: 'one secondary is behind',
      evidence: behind.text,
      fix: 'check that it is notified (RFC 1996) and allowed to transfer the zone; it also tries by itself after refresh and retry',
    })
  const delegation = remarks.find(({ what }) => what === 'delegation')
  if (delegation)
    causes.push({
      kind: 'old-delegation',
      text: 'the parent zone still delegates to other servers',
      evidence: delegation.text,
      fix: `have the registrar enter ${state.intended.ns.join(', ')}; until then resolvers ask the other servers`,
    })
  for (const { vantage, ownAnswer } of answers)
    if (ownAnswer)
      causes.push({
        kind: 'answers-itself',
        text: `${vantage} answers this name by itself, and not with what the zone’s servers told it`,
        evidence: ownAnswer,
        fix: 'look there for a local entry, a block list, a policy or a fixed TTL for the name',
      })
  // What an earlier state said needs no further explanation.
  if (
    !question.intended ||
    question.follow ||
    question.referral ||
    !problem ||
    answers.some(({ verdict, role }) => verdict === 'earlier-answer' && role === 'authoritative')
  )
    return causes
  const party = parties.find(({ label }) => label === problem.party.label) ?? parties[0]
  // What is settling needs no explanation; asking a cache for odd names would only fill it. Names above are asked of the zone's servers.
  const probes = probesFor(zones, zone, question, plan.fresh).filter(
    ({ kind }) => set.status.word !== 'settling' || kind === 'denied-above',
  )
  const found = new Map<Probe, Message | undefined>()
  const server = parties.find(({ role }) => role === 'authoritative')
  await Promise.all(
    probes.map(async (probe) => {
      const whom = probe.kind === 'denied-above' ? (server ?? party!) : party!
      found.set(
        probe,
        (await asking.ask(whom.label, probe.name, probe.type, { recursion: whom.role === 'resolver' })).message,
      )
    }),
  )
  return [
    ...causes,
    ...causesOf(zones, zone, question, probes, {
      found: (probe) => found.get(probe),
      came: problem.data,
      denied: problem.denied,
      nodata: problem.nodata,
      published,
      before: plan.earlier,
    }),
  ]
}

/** Why a watch ended: its deadline comes before anything can change, it was stopped, or nothing changes by waiting. All is confirmed otherwise. */
export type Ended = { why: 'deadline' | 'stopped' | 'nothing-due'; next?: number }

export interface Watching {
  /** Stop at this time, whatever stands then: seconds since 1970. */
  deadline?: number
  /** Whether everything shall stop now. */
  stopped(): boolean
  /** After each round; `next` is when the next one is due. */
  round(confirmations: readonly Confirmation[], next: number | undefined): void | Promise<void>
  /** Where it ends before all is confirmed. */
  ended?(how: Ended): void
}

/** Asks again whenever something can have changed, until all sets of all plans are confirmed, or it shall stop. */
export async function watch(plans: readonly Plan[], asking: Asking, watching: Watching): Promise<Confirmation[]> {
  let confirmations = await confirmAll(plans, asking)
  let whole = true
  for (;;) {
    const open = confirmations.flatMap(({ sets }) => sets.filter(({ status }) => status.word !== 'confirmed'))
    const due = open
      .flatMap(({ answers }) => answers.map(dueAt))
      .reduce((least, at) => Math.min(least, at), Number.POSITIVE_INFINITY)
    const next = Math.max(due, asking.now() + LEAST)
    // What was right an hour ago may not be so now: the last round asks for everything.
    if (open.length === 0 && !whole) {
      confirmations = await confirmAll(plans, asking)
      whole = true
      continue
    }
    const over =
      open.length === 0 || !Number.isFinite(due) || (watching.deadline !== undefined && next > watching.deadline)
    await watching.round(confirmations, over ? undefined : next)
    if (!over && !watching.stopped()) await asking.sleep(next - asking.now())
    if (over || watching.stopped()) {
      if (open.length > 0)
        watching.ended?.(
          watching.stopped()
            ? { why: 'stopped' }
            : Number.isFinite(due)
              ? { why: 'deadline', next }
              : { why: 'nothing-due' },
        )
      return confirmations
    }
    confirmations = await confirmAll(plans, asking, confirmations)
    whole = false
  }
}

/** A confirmation: whom to ask what in which order, and what the answers come to. Asking, the clock and waiting are handed in. */
import { serialAfter } from '../file/serial.ts'
import { TYPE } from '../records/types.ts'
import { delegationUntil, longestNsTtl } from './delegation.ts'
import { dueAt, openIn, serversDueAt } from './due.ts'
import { examine } from './examine.ts'
import { matters } from './history.ts'
import { Looks } from './looks.ts'
import type { Targets } from './nowhere.ts'
import { ownOf, withDrift } from './own.ts'
import type { Asking, Confirmation, Party, PartyInRole, Plan } from './plan.ts'
import type { Question } from './questions.ts'
import { remarksOnSignatures, signaturesBreak, withSignatures } from './signatures.ts'
import { type ConfirmedSet, type Copy, statusOf, statusOfRight } from './status.ts'
import { type Judged, judge, judgeTtls, note, type Role } from './verdict.ts'
import { lookAtZone } from './zone-look.ts'
import { copiesOf, deniedNames, remarksOn, sameSerials, silentPrimary, type ZoneState } from './zone-state.ts'

/** Questions for sets under way at a time; each vantage has its own bound below that. */
const WORKERS = 256
/** Causes are looked for with so many sets at most. */
const EXAMINED = 25
/** Zones that are asked about at a time. */
const ZONES = 16
/** Servers that change while they are asked are looked at so often. */
const LOOKS = 3

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

/** One round over all sets. With `before`, only what can have changed since is asked for again. */
export async function confirmRound(plan: Plan, asking: Asking, before?: Confirmation): Promise<Confirmation> {
  // A zone of which nothing is open is left alone until the last round.
  if (before && openIn(before).length === 0) return before
  // Who was of no use may be by now, and then it is another round from the start.
  const isKnown = before && !before.parties.some(({ trouble }) => trouble)
  const parties = isKnown ? before.parties : await partiesOf(plan, asking)
  const isSame = before !== undefined && partsOf(parties) === partsOf(before.parties)
  const round = new Round(plan, asking, parties, isSame ? before : undefined)
  const { state, lookedAt } = await round.lookAtServers()
  await round.askResolvers()
  return round.result(state, lookedAt)
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

/**
 * Those who are asked, with their roles. Whoever answers for the zone's SOA with authority, without asking others, is a server of it; so is who fails to, and offers no
 * recursion. Where none is among them, the zone's servers come first: a resolver that is asked too early keeps the denial.
 */
async function partiesOf(plan: Plan, asking: Asking): Promise<PartyInRole[]> {
  const { parties, onlyAuthoritative, early, reserve } = plan
  const known: PartyInRole[] = await Promise.all(
    parties.map((party): PartyInRole | Promise<PartyInRole> =>
      party.role ? { ...party, role: party.role } : inRole(plan, asking, party),
    ),
  )
  if (onlyAuthoritative) return known.filter(({ role, trouble }) => role === 'authoritative' || trouble)
  const mayKeep = known.some(({ role, trouble }) => role === 'resolver' && !trouble)
  if (early || !reserve || !mayKeep || known.some(({ role }) => role === 'authoritative')) return known
  return [...(await reserve()).map((party) => ({ ...party, role: 'authoritative' as const })), ...known]
}

/** Who they are, and what part they have. */
const partsOf = (parties: readonly PartyInRole[]): string =>
  parties.map(({ label, role, trouble }) => `${label} ${trouble ? 'of no use' : role}`).join('; ')

async function inRole({ zone }: Plan, asking: Asking, party: Party): Promise<PartyInRole> {
  const observation = await asking.ask(party.label, zone.name, TYPE.SOA, { recursion: false })
  const { message } = observation
  if (!message) return { ...party, role: 'resolver', trouble: observation }
  // Who neither has authority nor offers recursion is no resolver either: it is judged as what it should be.
  const isServer = (message.authoritative && message.answers.length > 0) || !message.recursionAvailable
  return { ...party, role: isServer ? 'authoritative' : 'resolver' }
}

/** One round: what was kept of the one before, what is asked now, and what it comes to. */
class Round {
  private readonly plan: Plan
  private readonly asking: Asking
  private readonly before: Confirmation | undefined
  private readonly parties: PartyInRole[]
  private readonly servers: PartyInRole[]
  private readonly resolvers: PartyInRole[]
  private readonly looks: Looks
  private readonly answersTo: Map<Question, Judged[]>
  private readonly earlierSets: ReadonlyMap<Question, ConfirmedSet> | undefined
  /** For which sets resolvers were asked. */
  private readonly askedOfResolvers = new Set<Question>()

  constructor(plan: Plan, asking: Asking, parties: PartyInRole[], before?: Confirmation) {
    this.plan = plan
    this.asking = asking
    this.before = before
    this.parties = parties
    this.servers = parties.filter(({ role }) => role === 'authoritative')
    this.resolvers = parties.filter(({ role, trouble }) => role === 'resolver' && !trouble)
    this.looks = new Looks(plan, asking, this.resolvers, this.servers)
    this.answersTo = new Map(plan.questions.map((question) => [question, []]))
    this.earlierSets = before && new Map(before.sets.map((set) => [set.question, set]))
  }

  /** Authoritative servers first: asking a cache for what is not there yet plants the very denial that one waits for. What they have, and their serials, are of one look. */
  async lookAtServers(): Promise<Pick<Confirmation, 'state' | 'lookedAt'>> {
    const { plan, asking, before, servers } = this
    if (before && serversDueAt(before) > asking.now()) {
      for (const question of plan.questions) this.take(question, this.keptOf(question, 'authoritative'))
      return before
    }
    let state = await lookAtZone(plan, asking, servers)
    const isRight = (question: Question): boolean => this.keptOf(question, 'authoritative').every(isAsIntended)
    const wanted = before ? plan.questions.filter((question) => !isRight(question)) : plan.questions
    if (before)
      for (const question of plan.questions.filter(isRight)) this.take(question, this.keptOf(question, 'authoritative'))
    await this.askAll(wanted, servers)
    for (let i = 1; i < LOOKS; i++) {
      const seen = state
      const mixed = wanted.filter((question) => isDoubtful(this.answersTo.get(question)!, seen))
      const again = mixed.length > 0 ? await lookAtZone(plan, asking, servers) : state
      if (sameSerials(state, again)) break
      // A server got another version in between.
      state = again
      for (const question of mixed) this.answersTo.set(question, [])
      await this.askAll(mixed, servers)
    }
    this.judgeTtls()
    return { state, lookedAt: asking.now() }
  }

  /** For what all servers have, and where it is waited for no earlier than it is due. */
  async askResolvers(): Promise<void> {
    const { plan, resolvers, asking } = this
    const isPublished = (question: Question): boolean => {
      const atServers = this.answersTo.get(question)!
      return atServers.length > 0 && atServers.every(isAsIntended)
    }
    const questions = plan.questions.filter((each) => !each.referral && (plan.early || isPublished(each)))
    for (const { trouble } of this.parties)
      if (trouble)
        for (const question of plan.questions) this.take(question, [judge(question, trouble, { role: 'resolver' })])
    if (resolvers.length === 0) return
    for (const question of questions) this.askedOfResolvers.add(question)
    await this.askAll(questions, resolvers, (question, { label }) => {
      const kept = this.keptOf(question, 'resolver').filter(({ vantage }) => vantage === label)
      return kept.length > 0 && kept.every((one) => dueAt(one) > asking.now()) ? kept : undefined
    })
  }

  private async askAll(
    questions: readonly Question[],
    parties: readonly PartyInRole[],
    kept: (question: Question, party: Party) => Judged[] | undefined = () => undefined,
  ): Promise<void> {
    const askOne = async (question: Question, party: PartyInRole): Promise<void> => {
      const known = kept(question, party)
      if (known) this.take(question, known)
      else {
        const came: Judged[] = []
        for (let i = 0; i < this.plan.samples; i++) came.push(await this.looks.observe(question, party))
        noteSamples(came)
        this.take(question, came)
      }
      this.asking.progress?.()
    }
    await each(questions, (question) =>
      parties.length === 1
        ? askOne(question, parties[0]!)
        : Promise.all(parties.map((party) => askOne(question, party))),
    )
  }

  private take(question: Question, answers: readonly Judged[]): void {
    this.answersTo.get(question)!.push(...answers)
  }

  private keptOf(question: Question, role: Role): Judged[] {
    return this.earlierSets?.get(question)?.answers.filter((each) => each.role === role) ?? []
  }

  private judgeTtls(): void {
    const others = [...this.answersTo.values()].some((answers) =>
      answers.some(({ otherTtl }) => otherTtl !== undefined),
    )
    if (!others) return
    const all = [...this.answersTo].flatMap(([question, answers]) => answers.map((answer) => ({ question, answer })))
    for (const { label } of this.servers) judgeTtls(all.filter(({ answer }) => answer.vantage === label))
  }

  /** What all of it comes to. */
  async result(state: ZoneState, lookedAt: number): Promise<Confirmation> {
    const { plan, asking, parties } = this
    const now = asking.now()
    const copies = copiesOf(plan, state, now)
    const remarks = [
      ...remarksOn(state, copies, now, plan.zones),
      ...remarksOnSignatures(state, now),
      ...deniedNames(this.answersTo),
    ]
    const around = this.factsOfZone(state, copies, now)
    const broken = signaturesBreak(state, now)
    const sets = plan.questions.map((question) => {
      const set = this.setOf(question, around)
      return broken === undefined ? set : withSignatures(set, broken)
    })
    await this.followUp(sets)
    const { nowhere, unknown } = await this.targetsOf(sets)
    const own = ownOf(plan, state, parties)
    const result = { at: now, lookedAt, state, remarks, own, sets, parties, nowhere, unknownTargets: unknown }
    const examined = sets
      .filter(({ status, causes }) => !['confirmed', 'unreachable'].includes(status.word) && causes.length === 0)
      .slice(0, EXAMINED)
    await each(examined, async (set) => {
      set.causes = await examine(plan, asking, result, set, this.looks)
    })
    return result
  }

  /** Where confirmed sets lead; those that were confirmed in the round before were asked for then. */
  private async targetsOf(sets: readonly ConfirmedSet[]): Promise<Targets> {
    const isNew = ({ question }: ConfirmedSet): boolean => this.earlierSets?.get(question)?.status.word !== 'confirmed'
    const { nowhere, unknown } = await this.looks.leadNowhere(sets.filter(isNew))
    if (!this.before) return { nowhere, unknown }
    return {
      nowhere: [...this.before.nowhere, ...nowhere],
      unknown: [...new Set([...this.before.unknownTargets, ...unknown])],
    }
  }

  private factsOfZone(state: ZoneState, copies: ReadonlyMap<string, Copy>, now: number) {
    const delegation = delegationUntil(this.plan, state.intended, longestNsTtl(state), now)
    return {
      now,
      knownSince: this.plan.knownSince,
      delegation: delegation?.until,
      delegationSeen: delegation?.seen !== false,
      copies,
      intendedSerial: state.intended.soa?.serial,
      silentPrimary: silentPrimary(state.servers),
    }
  }

  private setOf(question: Question, around: ReturnType<Round['factsOfZone']>): ConfirmedSet {
    const came = this.answersTo.get(question)!
    const answers =
      this.parties.length === 1
        ? came
        : this.parties.flatMap(({ label }) => came.filter(({ vantage }) => vantage === label))
    const { states, publishedAt } = this.looks.history(question)
    const removed = !question.intended && !question.follow
    const resolversLeft = this.resolvers.length > 0 && !this.askedOfResolvers.has(question) && !question.referral
    const wildcard = question.asked !== question.owner
    const plainly = wildcard && states.length > 0 ? undefined : statusOfRight(answers, { removed, resolversLeft })
    const status =
      plainly ??
      statusOf(answers, {
        ...around,
        publishedAt,
        past: states.filter((each) => matters(each, question)),
        ttl: question.intended?.ttl ?? question.negativeTtl ?? 0,
        since: (vantage, verdict) => this.plan.memory.since(question, vantage, verdict),
        promised: (vantage, verdict) => this.plan.memory.promised(question, vantage, verdict),
        removed,
        resolversLeft,
        wildcard,
      })
    const kept = this.earlierSets?.get(question)
    return {
      question,
      answers,
      status,
      ...(publishedAt === undefined ? {} : { publishedAt }),
      // What was found out a moment ago need not be asked for again.
      causes: status.word !== 'confirmed' && kept?.status.word === status.word ? kept.causes : [],
    }
  }

  /** Sets that follow a name are compared with what that has now. */
  private async followUp(sets: ConfirmedSet[]): Promise<void> {
    for (const [i, set] of sets.entries()) {
      const drift = set.question.follow === undefined ? undefined : await this.looks.drift(set.question)
      if (drift) sets[i] = withDrift(set, drift)
    }
  }
}

const isAsIntended = ({ verdict }: Judged): boolean => verdict === 'as-intended' || verdict === 'not-tried'

/** Some servers have it as it is intended, and others something else, though by their serials they are not behind: they may have got another version in between. */
function isDoubtful(answers: readonly Judged[], { servers }: ZoneState): boolean {
  const right = answers.filter(isAsIntended)
  const serialOf = (label: string): number | undefined => servers.find(({ vantage }) => vantage === label)?.soa?.serial
  const isBehind = ({ vantage }: Judged): boolean => {
    const serial = serialOf(vantage)
    return right.some((each) => {
      const later = serialOf(each.vantage)
      return serial !== undefined && later !== undefined && serialAfter(later, serial)
    })
  }
  return right.length > 0 && answers.some((each) => !isAsIntended(each) && !isBehind(each))
}

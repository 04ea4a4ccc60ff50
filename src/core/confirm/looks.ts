/** Asking vantages for sets, with the second looks that some answers need; remembers what serves many of them. */
import { answer } from '../knowledge/answer.ts'
import { type Find, findAsked, findIntendedThenAsked } from '../knowledge/find.ts'
import type { How } from '../message/encode.ts'
import type { Message } from '../message/message.ts'
import { foldName, type Name } from '../names/name.ts'
import { embeddedIn, type Translation, translationIn, WELL_KNOWN } from '../names/translation.ts'
import { parseRdata, type Rdata, rdataKey, rdataText } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { frontAt } from '../rules/fronts.ts'
import { digestOf, expiryOf, type History, historyOf, letGo } from './history.ts'
import { leadNowhere, type Targets } from './nowhere.ts'
import type { Observation } from './observation.ts'
import type { Asking, Party, Plan } from './plan.ts'
import { pastOf, type Question } from './questions.ts'
import { sameness } from './sameness.ts'
import type { ConfirmedSet } from './status.ts'
import { type Judged, judge, judgeRight, type Known, note, type Role } from './verdict.ts'

/** An answer of a resolver with so low a TTL may be an expired one (RFC 8767 §5 has 30 s). */
const STALE_TTL = 30
/** Whether a TTL decreases is seen after this many seconds. */
const SECOND_LOOK = 2
/** After the first answer, at most so many more. */
const LOOKS = 2
/** A resolver that gives one of several addresses at a time is asked so often for each of them, and so often in all. */
const TURNS = 3
const MOST_TURNS = 24

const OF_SERVER: How = { recursion: false }
const OF_RESOLVER: How = { recursion: true }
const SECOND_LOOKS = new Set(['earlier-answer', 'different', 'aliased', 'absent', 'stale'])

/** What the name that a set follows has now, beside what the file says. */
export interface Drift {
  follow: string
  /** Undefined where it could not be looked up. */
  now?: string[]
  /** Whether that is what the file says. */
  same: boolean
}

export class Looks {
  private readonly plan: Plan
  private readonly asking: Asking
  private readonly histories = new Map<Question, History>()
  private readonly find: Find
  private readonly findOutside: Find | undefined
  /** The data that came for sets that are not as intended. */
  readonly came = new Map<Question, { party: Party; data: Rdata[]; denied: boolean; nodata: boolean }[]>()
  private readonly translations = new Map<string, Promise<Translation[]>>()

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
  async leadNowhere(sets: readonly ConfirmedSet[]): Promise<Targets> {
    if (!this.findOutside) return { nowhere: [], unknown: [] }
    const confirmed = sets.filter(({ status }) => status.word === 'confirmed').map(({ question }) => question)
    return leadNowhere(this.plan.zones, confirmed, this.findOutside)
  }

  /** How the file's data of a set that follows a name differ from what that has now; undefined for a set of which the file says nothing. */
  async drift({ follow, intended, type }: Question): Promise<Drift | undefined> {
    if (follow === undefined || !intended) return undefined
    const { followed, nowhere } = await this.followedBy(follow, type)
    if (!followed) return { follow, same: false }
    const keys = (data: readonly Rdata[]): string =>
      data
        .map((each) => rdataKey(type, each))
        .sort()
        .join()
    return {
      follow,
      now: nowhere ? [] : followed.map((each) => rdataText(type, each)),
      same: keys(followed) === keys(intended.data),
    }
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
    if (this.deservesSecondLook(question, judged))
      for (let i = 0; i < LOOKS; i++) {
        await this.asking.sleep(SECOND_LOOK)
        const again = await this.asking.ask(label, asked, type, how)
        if (!again.message) break
        const next = judge(question, again, { ...known, before: observation })
        if (judged.verdict === 'stale' && next.verdict === 'as-intended')
          note(next, 'it first returned an expired answer, then a current one')
        judged = next
        // Two caches that fetched it just now look like one whose TTL does not decrease: a third answer is of one of them.
        if (!judged.ownAnswer && judged.verdict !== 'stale') break
      }
    if (judged.verdict === 'different' && role === 'resolver')
      judged = await this.explained(question, party, judged, observation.message!)
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
    return ttl <= STALE_TTL || ends.length === 0 || letGo(now, ttl) >= Math.max(...ends)
  }

  /** Other data that are the intended ones all the same: translated by DNS64, or given one at a time. */
  private async explained(question: Question, party: Party, judged: Judged, message: Message): Promise<Judged> {
    if (question.type === TYPE.AAAA && !question.intended) return this.translated(question, party, judged)
    const key = (data: Rdata): string => sameness(question, data)
    const came = dataIn(message, question).map(key)
    const states = [question.intended, ...pastOf(question, this.plan.earlier)]
      .map((state) => new Set((state?.data ?? []).map(key)))
      .filter((all) => all.size > came.length && came.every((one) => all.has(one)))
    return states.length > 0 ? this.inTurn(question, party, judged, came, states) : judged
  }

  /** Only some of what the set is, or was, came: a resolver may give one after another, which asking it a few more times shows. */
  private async inTurn(
    question: Question,
    { label }: Party,
    judged: Judged,
    came: readonly string[],
    states: readonly ReadonlySet<string>[],
  ): Promise<Judged> {
    const { asked, type, intended } = question
    const all = new Map<string, Rdata>()
    const most = Math.max(...states.map(({ size }) => size))
    const isOne = (): boolean =>
      states.some((state) => state.size === all.size && [...all.keys()].every((one) => state.has(one)))
    for (let i = 0; i < Math.min(MOST_TURNS, most * TURNS) && !isOne(); i++) {
      const { message } = await this.asking.ask(label, asked, type, OF_RESOLVER)
      for (const data of message ? dataIn(message, question) : []) all.set(sameness(question, data), data)
    }
    if (!isOne() || !came.every((one) => all.has(one))) return judged
    const state = { digest: digestOf(question, { data: [...all.values()] }), ttl: judged.ttl ?? 0 }
    const isIntended = intended !== undefined && state.digest === digestOf(question, intended)
    const given: Judged = {
      ...judged,
      verdict: isIntended ? 'as-intended' : 'earlier-answer',
      missing: isIntended ? [] : judged.missing,
      detail: isIntended ? '' : `gone in ${judged.ttl} s`,
      state: isIntended ? undefined : state,
      notes: [...judged.notes],
    }
    note(given, 'it returns only some of the records at a time, in turn')
    return given
  }

  /** IPv6 addresses where none are intended may be made of the intended IPv4 ones (DNS64, RFC 6147), in a prefix for that. */
  private async translated(question: Question, { label }: Party, judged: Judged): Promise<Judged> {
    const { zones, earlier } = this.plan
    const ofA = { ...question, type: TYPE.A }
    const intended = answer(zones, question.asked, TYPE.A).answers.filter(({ type }) => type === TYPE.A)
    const known = [...intended, ...pastOf(ofA, earlier)]
      .flatMap(({ data }) => data ?? [])
      .map((data) => rdataKey(TYPE.A, data))
    const came = this.dataOf(judged)
    const isMade = (by: readonly Translation[]): boolean =>
      came.length > 0 &&
      came.every((data) => by.some((each) => known.includes(rdataKey(TYPE.A, embeddedIn(data, each) ?? NOTHING))))
    if (known.length === 0 || !(isMade([WELL_KNOWN]) || isMade(await this.translationsOf(label)))) return judged
    const made: Judged = {
      ...judged,
      verdict: 'as-intended',
      extra: [],
      detail: '',
      state: undefined,
      notes: [...judged.notes],
    }
    note(made, 'the addresses are synthesized from the intended A records (DNS64)')
    return made
  }

  private dataOf({ extra }: Judged): Rdata[] {
    return extra.flatMap((text) => {
      const made = parseRdata(TYPE.AAAA, text, ROOT)
      return 'wire' in made ? [made.wire] : []
    })
  }

  /** The prefixes in which a resolver translates, as it shows itself (RFC 7050 §3). */
  private translationsOf(label: string): Promise<Translation[]> {
    let found = this.translations.get(label)
    if (!found)
      this.translations.set(
        label,
        (found = this.asking
          .ask(label, 'ipv4only.arpa.', TYPE.AAAA, OF_RESOLVER)
          .then(({ message }) =>
            (message?.answers ?? []).flatMap(({ type, data }) => (type === TYPE.AAAA ? translationIn(data) : [])),
          )),
      )
    return found
  }

  private keep(question: Question, party: Party, message: Message | undefined): void {
    if (!message) return
    const here = dataIn(message, question)
    const kept = this.came.get(question) ?? []
    kept.push({
      party,
      data: here,
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
    const isNone = (each: string): boolean => each === 'no-data' || each === 'no-name'
    const followed = set?.data ?? (isNone(outcome) ? [] : undefined)
    return { followed, nowhere: followed?.length === 0 && isNone(other!.outcome) }
  }
}

/** The data of the type at the name that was asked for. */
const dataIn = ({ answers }: Message, { asked, type }: Question): Rdata[] =>
  answers.filter((each) => each.type === type && foldName(each.owner) === foldName(asked)).map(({ data }) => data)

const NOTHING = new Uint8Array(4)
const ROOT = new Uint8Array([0])

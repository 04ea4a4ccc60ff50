/** What receivers make of a sender by SPF: `check_host()` of RFC 7208 §4, with the questions left to the caller. */

import { UNANSWERED } from '../../knowledge/find.ts'
import { addressText, parseAddress } from '../../names/address.ts'
import { isIn } from '../../names/address-kinds.ts'
import { foldName, labelsOf, type Name, toName } from '../../names/name.ts'
import { reverseName } from '../../names/reverse.ts'
import { domainToName, type Found, type Lookup, type LookupType, unanswered } from '../lookup.ts'
import { shortened } from '../tags.ts'
import { expandMacros, type MacroText, type MacroValues, needsValidated, parseMacros } from './macro.ts'
import { asks, isSpf, type Mechanism, type Modifier, type Qualifier, readSpf, type SpfRecord } from './record.ts'

export type SpfResult = 'none' | 'neutral' | 'pass' | 'fail' | 'softfail' | 'temperror' | 'permerror'

/** The most terms that ask, exchanges of one `mx`, names of one `ptr`, and terms that find nothing (RFC 7208 §4.6.4). */
export const MAX_LOOKUPS = 10
export const MAX_EXCHANGES = 10
const MAX_NAMES = 10
export const MAX_VOID_LOOKUPS = 2

export interface CheckHostInput {
  /** The address that mail comes from, IPv4 or IPv6 as text. */
  ip: string
  /** The name that the sender says it has (EHLO). */
  helo: string
  /** The envelope sender; empty for bounces, which are judged as `postmaster@` the name said in EHLO (§2.4). */
  mailFrom: string
  lookup: Lookup
  /** For explanations only: who judges, and when, in seconds since 1970. */
  receiver?: string
  time?: number
}

/** One step of the evaluation, in order; that of an include stands before those of the record that it leads to. */
export interface SpfStep {
  /** How many includes and redirects lead here. */
  depth: number
  domain: string
  /** As written; empty for what concerns the whole record. */
  term: string
  outcome: 'matches' | 'no match' | 'trouble' | 'goes on' | 'ends'
  why: string
  /** Terms that asked, up to here. */
  lookups: number
}

export interface CheckHostResult {
  result: SpfResult
  /** What the domain's owner says to a sender that fails (`exp`). */
  explanation?: string
  /** Terms that asked, of ten that may. */
  lookups: number
  /** Terms that found nothing, of two that may (RFC 7208 §4.6.4). The result counts so. */
  voidLookups: number
  /** Questions that found nothing, each exchange of an `mx` and each name of a `ptr` counted: some receivers count so, and allow two, too. */
  voidQuestions: number
  trace: SpfStep[]
}

interface Outcome {
  result: SpfResult
  /** The domain whose record decided, and its `exp`. */
  by?: { domain: string; exp?: Modifier }
}

const RESULT_OF: Record<Qualifier, SpfResult> = { '+': 'pass', '-': 'fail', '~': 'softfail', '?': 'neutral' }

/** Judges a sender. An `ip` that is no address is a RangeError; whatever the DNS or a record holds is a result. */
export async function checkHost(input: CheckHostInput): Promise<CheckHostResult> {
  const octets = parseAddress(input.ip)
  if (!octets) throw new RangeError(`${input.ip} is not an IP address`)
  const stated = input.mailFrom === '' ? input.helo : input.mailFrom.slice(input.mailFrom.lastIndexOf('@') + 1)
  const local =
    input.mailFrom.lastIndexOf('@') > 0 ? input.mailFrom.slice(0, input.mailFrom.lastIndexOf('@')) : 'postmaster'
  const evaluation = new Evaluation(unmapped(octets), local, stated, input)
  const { result, by } = await evaluation.domain(stated, 0)
  const explanation = result === 'fail' && by?.exp ? await evaluation.explain(by.domain, by.exp) : undefined
  return {
    result,
    ...(explanation === undefined ? {} : { explanation }),
    lookups: evaluation.lookups,
    voidLookups: evaluation.voids,
    voidQuestions: evaluation.voidQuestions,
    trace: evaluation.trace,
  }
}

/** An IPv4 address in IPv6's clothes is IPv4 (RFC 7208 §5). */
const unmapped = (octets: Uint8Array): Uint8Array =>
  octets.length === 16 && isIn(octets, [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0xff, 0xff], 96) ? octets.slice(12) : octets

/** What ends the whole evaluation. */
class Ending extends Error {
  readonly result: 'temperror' | 'permerror'
  constructor(result: 'temperror' | 'permerror', why: string) {
    super(why)
    this.result = result
  }
}

const isVoid = (found: Found): boolean =>
  'trouble' in found ? found.trouble === 'no-name' || found.trouble === 'no-data' : found.data.length === 0

class Evaluation {
  lookups = 0
  voids = 0
  voidQuestions = 0
  readonly trace: SpfStep[] = []
  private readonly ip: Uint8Array
  private readonly family: 'A' | 'AAAA'
  private readonly values: Omit<MacroValues, 'domain'>
  private readonly lookup: Lookup
  private validatedNames: Promise<{ names: string[]; empty: boolean }> | undefined

  constructor(ip: Uint8Array, local: string, domain: string, { helo, lookup, receiver, time }: CheckHostInput) {
    this.ip = ip
    this.family = ip.length === 4 ? 'A' : 'AAAA'
    this.values = { sender: `${local}@${domain}`, ip, helo, receiver, time }
    this.lookup = lookup
  }

  /** §4.3–§4.7 for one domain; `given` is its record where that was asked for before. */
  async domain(domain: string, depth: number, given?: Promise<Found>): Promise<Outcome> {
    const step = (outcome: SpfStep['outcome'], why: string, term = ''): void => {
      this.trace.push({ depth, domain, term, outcome, why, lookups: this.lookups })
    }
    const name = domainToName(domain)
    if (name === undefined || labelsOf(name).length < 2) {
      step('ends', `“${shortened(domain)}” is not a domain name that can have a record: none`)
      return { result: 'none' }
    }
    const found = await (given ?? this.ask(name, 'TXT'))
    const trouble = unanswered(found)
    if (trouble) {
      step('trouble', `${domain} ${UNANSWERED[trouble]}: temperror`)
      return { result: 'temperror' }
    }
    const texts = 'data' in found ? found.data.filter(isSpf) : []
    if (texts.length === 0) {
      step(
        'ends',
        `${domain} ${'trouble' in found && found.trouble === 'no-name' ? 'does not exist' : 'has no SPF record'}: none`,
      )
      return { result: 'none' }
    }
    if (texts.length > 1) {
      step('trouble', `${domain} has ${texts.length} SPF records: permerror`)
      return { result: 'permerror' }
    }
    const { record, problems } = readSpf(texts[0]!)
    if (problems.length > 0) {
      step('trouble', `${problems[0]!.message}: permerror`, texts[0]!.slice(problems[0]!.start, problems[0]!.end))
      return { result: 'permerror' }
    }
    try {
      return await this.terms(domain, record, depth, step)
    } catch (error) {
      if (!(error instanceof Ending)) throw error
      step('trouble', `${error.message}: ${error.result}`)
      return { result: error.result }
    }
  }

  private async terms(
    domain: string,
    record: SpfRecord,
    depth: number,
    step: (outcome: SpfStep['outcome'], why: string, term?: string) => void,
  ): Promise<Outcome> {
    const under = new Ahead(this, domain, record)
    for (const mechanism of record.mechanisms) {
      const before = this.trace.length
      const { matches, why } = await this.mechanism(mechanism, domain, depth, under)
      const result = RESULT_OF[mechanism.qualifier]
      if (matches) step('matches', `${why}: ${result}`, mechanism.text)
      else step('no match', why, mechanism.text)
      // What an include leads to is read below it.
      this.trace.splice(before, 0, ...this.trace.splice(-1))
      if (matches) return { result, by: { domain, exp: record.exp } }
    }
    const { redirect } = record
    if (!redirect) {
      step('ends', 'no term matches, and there is no “all”: neutral')
      return { result: 'neutral' }
    }
    this.count(redirect.text)
    const target = await this.expand(redirect.macros, domain)
    step('goes on', `nothing matched; the record of ${target} is used instead`, redirect.text)
    const outcome = await this.domain(target, depth + 1, under.answerFor(redirect))
    return outcome.result === 'none' ? { result: 'permerror' } : outcome
  }

  private async mechanism(
    mechanism: Mechanism,
    domain: string,
    depth: number,
    ahead: Ahead,
  ): Promise<{ matches: boolean; why: string }> {
    const { name, network } = mechanism
    if (name === 'all') return { matches: true, why: 'matches everything' }
    if (network) {
      const matches =
        network.length === this.ip.length &&
        isIn(this.ip, network, this.ip.length === 4 ? mechanism.bits4 : mechanism.bits6)
      return { matches, why: `${addressText(this.ip)} is ${matches ? '' : 'not '}in the range` }
    }
    this.count(mechanism.text)
    const target = mechanism.macros ? await this.expand(mechanism.macros, domain) : domain
    if (name === 'include') return this.include(target, depth, ahead.answerFor(mechanism))
    if (name === 'ptr') return this.ptr(target)
    const host = domainToName(target)
    // RFC 7208 §4.8 leaves open what a name that is none does: here it matches nobody.
    if (host === undefined) return { matches: false, why: `“${shortened(target)}” is not a domain name` }
    const type = name === 'mx' ? 'MX' : name === 'exists' ? 'A' : this.family
    const found = this.usable(await (ahead.answerFor(mechanism) ?? this.ask(host, type)), target)
    if (name === 'exists')
      return found.length > 0 ? { matches: true, why: `${target} exists` } : this.nothing(`${target} does not exist`)
    if (name === 'a')
      return found.length > 0
        ? this.among(found, target, mechanism)
        : this.nothing(`${target} has no ${this.familyText()} address`)
    if (found.length === 0) return this.nothing(`${target} has no MX`)
    if (found.length > MAX_EXCHANGES)
      throw new Ending('permerror', `${target} has ${found.length} MX hosts (at most ${MAX_EXCHANGES})`)
    // A set has no order: by preference, the trace is the same each time.
    const exchanges = [...found]
      .sort((a, b) => Number.parseInt(a, 10) - Number.parseInt(b, 10) || (a < b ? -1 : 1))
      .map((each) => each.replace(/^\d+ /, ''))
      .filter((each) => each !== '.')
    const answers = exchanges.map((exchange) => this.ask(exchange, this.family))
    const addresses: string[] = []
    // In order: what matches before a server fails, matches.
    for (const [i, exchange] of exchanges.entries()) {
      const host = exchange.replace(/\.$/, '')
      const there = this.usable(await answers[i]!, host)
      if (there.length === 0) this.voidQuestions++
      const here = this.among(there, host, mechanism)
      if (here.matches) return here
      addresses.push(...there)
    }
    if (addresses.length === 0)
      return this.nothing(`no MX host of ${target} has an ${this.familyText()} address`, exchanges.length === 0 ? 1 : 0)
    return this.among(addresses, `the MX hosts of ${target}`, mechanism)
  }

  private async include(
    target: string,
    depth: number,
    given: Promise<Found> | undefined,
  ): Promise<{ matches: boolean; why: string }> {
    const { result } = await this.domain(target, depth + 1, given)
    if (result === 'temperror') throw new Ending('temperror', `the record of ${target} could not be looked up`)
    if (result === 'permerror') throw new Ending('permerror', `the record of ${target} cannot be used`)
    if (result === 'none') throw new Ending('permerror', `${shortened(target)} has no SPF record to include`)
    return { matches: result === 'pass', why: `the record of ${target} says ${result}` }
  }

  private among(
    addresses: readonly string[],
    whose: string,
    { bits4, bits6 }: Mechanism,
  ): { matches: boolean; why: string } {
    const bits = this.family === 'A' ? bits4 : bits6
    const match = addresses.find((each) => {
      const octets = parseAddress(each)
      return octets !== undefined && octets.length === this.ip.length && isIn(this.ip, octets, bits)
    })
    if (match !== undefined)
      return {
        matches: true,
        why:
          bits === this.ip.length * 8
            ? `${match} is an address of ${whose}`
            : `it is in ${match}/${bits}, by an address of ${whose}`,
      }
    const shown = addresses.slice(0, 4).join(', ') + (addresses.length > 4 ? ` and ${addresses.length - 4} more` : '')
    return { matches: false, why: `${whose} ${whose.startsWith('the ') ? 'have' : 'has'} ${shown}` }
  }

  private async ptr(target: string): Promise<{ matches: boolean; why: string }> {
    const name = toName(target.endsWith('.') ? target : `${target}.`)
    const { names, empty } = await this.validated()
    if (empty) return this.nothing(`${addressText(this.ip)} has no PTR name`)
    const match = name === undefined ? undefined : names.find((each) => endsIn(each, name))
    if (match !== undefined) return { matches: true, why: `${addressText(this.ip)} is ${match}` }
    return {
      matches: false,
      why:
        names.length === 0
          ? `${addressText(this.ip)} has no PTR name that leads back to it`
          : `${addressText(this.ip)} is ${names.join(', ')}`,
    }
  }

  /** The names of the address that have it as address (§5.5). Whatever fails makes no name. */
  private validated(): Promise<{ names: string[]; empty: boolean }> {
    this.validatedNames ??= (async () => {
      const found = await this.ask(reverseName(this.ip), 'PTR')
      const names = 'data' in found ? found.data.slice(0, MAX_NAMES) : []
      const answers = await Promise.all(names.map((name) => this.ask(name, this.family)))
      this.voidQuestions += answers.filter(isVoid).length
      const leadBack = names.filter((_, i) => {
        const answer = answers[i]!
        return 'data' in answer && answer.data.some((each) => isSame(each, this.ip))
      })
      return { names: leadBack, empty: isVoid(found) }
    })()
    return this.validatedNames
  }

  /** A term that found nothing. */
  private nothing(why: string, questions = 1): { matches: false; why: string } {
    this.voidQuestions += questions
    if (++this.voids > MAX_VOID_LOOKUPS)
      throw new Ending('permerror', `${this.voids} void lookups (at most ${MAX_VOID_LOOKUPS})`)
    return { matches: false, why }
  }

  private usable(found: Found, target: string): readonly string[] {
    const trouble = unanswered(found)
    if (trouble) throw new Ending('temperror', `${target} ${UNANSWERED[trouble]}`)
    return 'data' in found ? found.data : []
  }

  private count(term: string): void {
    if (++this.lookups > MAX_LOOKUPS)
      throw new Ending('permerror', `${term} is the eleventh lookup (at most ${MAX_LOOKUPS})`)
  }

  private readonly familyText = (): string => (this.family === 'A' ? 'IPv4' : 'IPv6')

  async expand(parts: MacroText, domain: string): Promise<string> {
    return this.expandNow(parts, domain, needsValidated(parts) ? await this.validatedFor(domain) : undefined)
  }

  expandNow(parts: MacroText, domain: string, validated?: string): string {
    return expandMacros(parts, { ...this.values, domain, validated }, 'domain').replace(/\.$/, '')
  }

  /** The name for %{p}: the domain itself where it is one, else one below it, else any (§7.3). */
  private async validatedFor(domain: string): Promise<string> {
    const { names } = await this.validated()
    const own = `${domain}.`
    const chosen =
      names.find((each) => foldName(each) === foldName(own)) ?? names.find((each) => endsIn(each, own)) ?? names[0]
    return chosen?.replace(/\.$/, '') ?? 'unknown'
  }

  /** Always a promise, and never one whose failure nobody hears of. */
  ask(name: Name, type: LookupType): Promise<Found> {
    const asked = (async () => this.lookup(name, type))()
    asked.catch(() => {})
    return asked
  }

  get left(): number {
    return MAX_LOOKUPS - this.lookups
  }

  /** Whether a term matches without any question. */
  matchesUnasked({ name, network, bits4, bits6 }: Mechanism): boolean {
    return (
      name === 'all' ||
      (network !== undefined &&
        network.length === this.ip.length &&
        isIn(this.ip, network, this.ip.length === 4 ? bits4 : bits6))
    )
  }

  typeFor(name: string): LookupType {
    return name === 'include' || name === 'redirect'
      ? 'TXT'
      : name === 'mx'
        ? 'MX'
        : name === 'exists'
          ? 'A'
          : this.family
  }

  /** The text at the target of `exp`, expanded; undefined where there is none that could be used (§6.2). */
  async explain(domain: string, exp: Modifier): Promise<string | undefined> {
    const name = domainToName(await this.expand(exp.macros, domain))
    const found = name === undefined ? undefined : await this.ask(name, 'TXT')
    if (!found || !('data' in found) || found.data.length !== 1) return undefined
    const { parts, problem } = parseMacros(found.data[0]!, 0, 'explanation')
    if (problem) return undefined
    const validated = needsValidated(parts) ? await this.validatedFor(domain) : undefined
    return expandMacros(parts, { ...this.values, domain, validated }, 'explanation')
  }
}

/**
 * The questions of one record that do not depend on one another, asked together as soon as the record is there. Nothing is asked behind a term that is sure to match, nor
 * beyond the ten terms that may ask: the answers are taken up in the order of the terms, so the result and the count are what they would be one by one.
 */
class Ahead {
  private readonly answers = new Map<Mechanism | Modifier, Promise<Found>>()

  constructor(evaluation: Evaluation, domain: string, record: SpfRecord) {
    const asking: { term: Mechanism | Modifier; macros?: MacroText }[] = []
    let ends = false
    for (const term of record.mechanisms) {
      if (asking.length >= evaluation.left || (ends = evaluation.matchesUnasked(term))) break
      if (asks(term)) asking.push({ term, macros: term.macros })
    }
    if (!ends && record.redirect && asking.length < evaluation.left)
      asking.push({ term: record.redirect, macros: record.redirect.macros })
    if (asking.length < 2) return
    for (const { term, macros } of asking) {
      if (term.name === 'ptr' || (macros && needsValidated(macros))) continue
      const name = domainToName(macros ? evaluation.expandNow(macros, domain) : domain)
      if (name !== undefined) this.answers.set(term, evaluation.ask(name, evaluation.typeFor(term.name)))
    }
  }

  answerFor(term: Mechanism | Modifier): Promise<Found> | undefined {
    return this.answers.get(term)
  }
}

const endsIn = (name: Name, domain: Name): boolean =>
  foldName(name) === foldName(domain) || foldName(name).endsWith(`.${foldName(domain)}`)
const isSame = (text: string, ip: Uint8Array): boolean => {
  const octets = parseAddress(text)
  return octets !== undefined && octets.length === ip.length && isIn(octets, ip, ip.length * 8)
}

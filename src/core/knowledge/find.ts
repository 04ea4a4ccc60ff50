/** What is known of a name and type, and from whom: your zones, vantages that are asked, or first the ones and then the others. */
import { extendedErrors, type Message, POLICY_ERRORS } from '../message/message.ts'
import type { RecordSet, Seconds, Zones } from '../model/zones.ts'
import { foldName, type Name } from '../names/name.ts'
import type { Rdata } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { answer, negativeTtl } from './answer.ts'
import { CHAIN_TROUBLE, Chain, type ChainTrouble, type Step, stepsIn } from './chain.ts'

/** Why nothing is known: your zones do not say and nobody was asked, nobody replied, a server failed, or aliases that lead nowhere. */
export type Unanswered = 'unknown' | 'time-out' | 'server-failure' | ChainTrouble

/** The same in words, behind a name. */
export const UNANSWERED: Record<Unanswered, string> = {
  'time-out': 'could not be asked for (no answer)',
  'server-failure': 'could not be asked for (the server failed)',
  unknown: 'is not known here',
  ...CHAIN_TROUBLE,
}

export interface Knowledge {
  /** The aliases that lead from the name asked for to `end`, those of your zones first. */
  steps: readonly Step[]
  /** The name whose data, or whose absence, is told. */
  end: Name
  outcome: 'data' | 'no-data' | 'no-name' | 'unknown'
  /** With data: the record set at `end`. */
  set?: RecordSet
  /** Without data: how long that may be cached; null where it comes without an SOA record and may not be (RFC 2308 §5). */
  negativeTtl?: Seconds | null
  /** Of a denial by those who were asked: the zone whose SOA record came with it, where one did and nothing says that it was made up by policy (RFC 8914). */
  deniedBy?: Name
  /** Where nothing is known: why. */
  why?: Unanswered
  /** Where the name is delegated away and your zones have its addresses as glue: those. */
  glue?: RecordSet
  /** Who told of `end`: a zone of yours, a vantage (and when, in seconds since 1970), or nobody. */
  by: { zone: Name } | { vantage: string; at: number } | 'nobody'
}

/** A source of knowledge. Names are absolute; types are numbers. */
export type Find = (name: Name, type: number) => Knowledge | Promise<Knowledge>

/** What your zones (sealed) say by themselves. */
export function findIntended(zones: Zones, name: Name, type: number): Knowledge {
  const { kind, answers, authority, additional, steps, trouble, zone } = answer(zones, name, type)
  const end = steps.findLast(({ by }) => by !== 'wildcard')?.to ?? name
  const known = { steps, end, by: zone ? { zone: zone.name } : ('nobody' as const) }
  if (kind === 'data') return { ...known, outcome: 'data', set: { ...answers.at(-1)!, owner: end } }
  if (kind === 'no-data' || (kind === 'no-name' && zone?.complete !== false)) {
    const soa = authority.find((each) => each.type === TYPE.SOA)
    return { ...known, outcome: kind, negativeTtl: soa ? negativeTtl(soa.ttl, soa.data[0]!) : null }
  }
  const glue = additional.find((each) => each.type === type && foldName(each.owner) === foldName(end))
  return { ...known, outcome: 'unknown', why: trouble ?? 'unknown', by: 'nobody', ...(glue ? { glue } : {}) }
}

/** One who can be asked: what it replied, or nothing, and when (seconds since 1970). Always resolves. */
export type Asked = (name: Name, type: number) => Promise<{ vantage: string; message?: Message; at: number }>

/** What those who are asked say, in turn: one that fails, or knows nothing of the name, leaves it to the next. Answers are remembered. */
export function findAsked(askers: readonly Asked[]): (name: Name, type: number) => Promise<Knowledge> {
  const known = new Map<string, Promise<Knowledge>>()
  return (name, type) => {
    const key = `${foldName(name)} ${type}`
    let found = known.get(key)
    if (!found) known.set(key, (found = askInTurn(askers, name, type)))
    return found
  }
}

async function askInTurn(askers: readonly Asked[], name: Name, type: number): Promise<Knowledge> {
  let trouble: Knowledge = { steps: [], end: name, outcome: 'unknown', why: 'time-out', by: 'nobody' }
  for (const ask of askers) {
    const found = await askOne(ask, name, type)
    if (found.outcome !== 'unknown') return found
    if (found.why !== 'time-out') trouble = found
  }
  return trouble
}

/** Asks one, and goes on with where its aliases lead as long as it does not say what is there. */
async function askOne(ask: Asked, name: Name, type: number): Promise<Knowledge> {
  const chain = new Chain(name)
  const steps: Step[] = []
  for (let end = name; ; ) {
    const { message, vantage, at } = await ask(end, type)
    if (!message) return { steps, end, outcome: 'unknown', why: 'time-out', by: 'nobody' }
    const led = type === TYPE.CNAME ? { steps: [] } : stepsIn(message.answers, end, chain)
    steps.push(...led.steps)
    end = led.steps.at(-1)?.to ?? end
    const known = { steps, end, by: { vantage, at } }
    if (led.trouble) return { ...known, outcome: 'unknown', why: led.trouble }
    const said = saidOf(message, end, type, led.steps.length > 0)
    if (said) return { ...known, ...said }
  }
}

/** What an answer says of the name that its aliases lead to; undefined where it leaves that to a further question. */
function saidOf(
  message: Message,
  end: Name,
  type: number,
  aliased: boolean,
): Omit<Knowledge, 'steps' | 'end' | 'by'> | undefined {
  const { rcode, answers, authority } = message
  const here = answers.filter((each) => each.type === type && foldName(each.owner) === foldName(end))
  if (here.length > 0) {
    const ttl = Math.min(...here.map((each) => each.ttl))
    return { outcome: 'data', set: { owner: end, type, ttl, data: here.map(({ data }) => data) } }
  }
  const soa = authority.find((each) => each.type === TYPE.SOA)
  const ttl = soa ? negativeTtl(soa.ttl, soa.data) : null
  const isPolicy = extendedErrors(message).some(({ code }) => POLICY_ERRORS.includes(code))
  const deniedBy = soa && !isPolicy ? foldName(soa.owner) : undefined
  if (rcode === NXDOMAIN) return { outcome: 'no-name', negativeTtl: ttl, deniedBy }
  if (rcode !== 0) return { outcome: 'unknown', why: 'server-failure' }
  if (aliased) return undefined
  // An empty answer counts where somebody answers for it: a referral says nothing.
  const counts = message.authoritative || message.recursionAvailable || soa !== undefined
  return counts ? { outcome: 'no-data', negativeTtl: ttl, deniedBy } : { outcome: 'unknown', why: 'server-failure' }
}

const NXDOMAIN = 3

/** Your zones first; where they do not say (the name is not in them, delegated away, or an alias leads out of them), whoever is asked, if anybody is. */
export function findIntendedThenAsked(zones: Zones, asked: Find | undefined): Find {
  return (name, type) => {
    const here = findIntended(zones, name, type)
    if (!asked || here.why !== 'unknown') return here
    const there = asked(here.end, type)
    const joined = (found: Knowledge): Knowledge => ({
      ...found,
      steps: [...here.steps, ...found.steps],
      ...(here.glue ? { glue: here.glue } : {}),
    })
    return there instanceof Promise ? there.then(joined) : joined(there)
  }
}

/** The data that is known to be there; none where there is none, or nothing is known. */
export const dataOf = ({ set }: Knowledge): readonly Rdata[] => set?.data ?? []
